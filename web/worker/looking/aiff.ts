import { wavOf } from "./wav.ts";

const MAX_CHUNKS = 64;
/** Coded samples (AIFF-C) that are whole numbers as they stand: the highest byte first, or the lowest. */
const BIG = new Set(["NONE", "twos"]);
const LITTLE = "sowt";

/** "Audio Interchange File Format" 1.3 and AIFF-C (draft of 1991): the same samples as a WAVE file, which browsers play. @throws for coded ones */
export function wavOfAiff(bytes: Uint8Array): Blob {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const word = (at: number) => String.fromCharCode(...bytes.subarray(at, at + 4));
  const isCoded = word(8) === "AIFC";
  let about: { channels: number; bits: number; rate: number; coded: string } | null = null;
  let samples: Uint8Array | null = null;
  for (let at = 12, chunks = 0; chunks < MAX_CHUNKS && at + 8 <= bytes.length; chunks++) {
    const size = view.getUint32(at + 4);
    const from = at + 8;
    if (word(at) === "COMM" && from + 18 <= bytes.length) {
      // A real of 80 bits (IEEE 754, extended): the exponent, then the fraction with its first bit.
      const rate = view.getUint32(from + 10) * 2 ** ((view.getUint16(from + 8) & 0x7fff) - 16_383 - 31);
      const coded = isCoded ? word(from + 18) : "NONE";
      about = { channels: view.getUint16(from), bits: view.getUint16(from + 6), rate: Math.round(rate), coded };
    } else if (word(at) === "SSND" && from + 8 <= bytes.length) samples = bytes.subarray(from + 8 + view.getUint32(from), from + size);
    at = from + size + (size & 1);
  }
  if (!about || !samples) throw new Error("it does not say what its sound is");
  const { channels, bits, rate, coded } = about;
  if (!BIG.has(coded) && coded !== LITTLE) throw new Error(`it is coded in ${coded}, which is not played here`);
  const width = Math.ceil(bits / 8);
  if (channels < 1 || channels > 8 || width < 1 || width > 4 || rate < 1) throw new Error("it does not say what its sound is");
  const whole = samples.slice(0, samples.length - (samples.length % (width * channels)));
  if (width === 1) for (let at = 0; at < whole.length; at++) whole[at] ^= 0x80;
  else if (coded !== LITTLE) for (let at = 0; at < whole.length; at += width) whole.subarray(at, at + width).reverse();
  return wavOf(whole, { rate, channels, bits: width * 8 });
}
