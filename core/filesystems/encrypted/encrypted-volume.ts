import { latin, layout, u16be, u32 } from "../../bytes/layout.ts";
import type { PatientSource } from "../../bytes/patient-source.ts";
import type { Volume } from "../volume.ts";

/** LUKS on-disk format specification 1.2.3, §2.1: the first fields of a header, big-endian. */
const LuksHeader = layout(72, { magic: latin(0, 6), version: u16be(6), cipherName: latin(8, 32), cipherMode: latin(40, 32) });
const LUKS_MAGIC = "LUKS\xba\xbe";
/** Android's full-disk encryption keeps a footer in the last 16 KiB (AOSP system/vold/cryptfs.h, crypt_mnt_ftr), little-endian. */
const CryptFooter = layout(104, { magic: u32(0), major_version: u16be(4), crypto_type_name: latin(40, 64) });
const CRYPT_MAGIC = 0xd0b5_b1c4;
const FOOTER_FROM_END = 16 * 1024;

/** Places looked at, and how large each is, before a stretch is called noise. */
const SAMPLES = 24;
const SAMPLE_BYTES = 16 * 1024;
/** A stretch this small is not judged by its noise. */
const LEAST = 4 * 1024 * 1024;
/**
 * Chi-square of the bytes of a sample against evenly spread ones: 255 degrees of freedom, so 255 ± 23 for noise. Compressed
 * films and archives lie above this here and there, text and tables far above; cipher text never does. 255 + 5 × 22.6.
 */
const MOST_CHI = 368;

const MEANS = "What lies in it cannot be told from noise without its key, so it is not searched.";

/**
 * A stretch that is encrypted as a whole: by a header, by a footer, or because every place that is looked at is noise.
 * Null: it is none of these.
 */
export async function openEncrypted(source: PatientSource, start: number, length: number, index: number): Promise<Volume | null> {
  const found =
    (await byHeader(source, start, length)) ?? (await byFooter(source, start, length)) ?? (await byNoise(source, start, length));
  if (!found) return null;
  return {
    info: {
      index,
      filesystem: "encrypted",
      start,
      length,
      label: null,
      encrypted: true,
      encryption: `${found} ${MEANS}`,
      used: length,
      free: 0,
      clusterBytes: 4096,
    },
    troubles: [{ what: `${found} ${MEANS}`, at: start, length }],
    async *list() {},
    freeRuns: () => [],
    mayDig: () => false,
    dig: async () => ({ files: [], troubles: [] }),
  };
}

async function byHeader(source: PatientSource, start: number, length: number): Promise<string | null> {
  if (length < LuksHeader.size) return null;
  const bytes = await source.read(start, LuksHeader.size);
  if (LuksHeader.magic(bytes, 0) !== LUKS_MAGIC) return null;
  return `It is encrypted as a whole (a LUKS header, version ${LuksHeader.version(bytes, 0)}): the passphrase is needed to open it.`;
}

async function byFooter(source: PatientSource, start: number, length: number): Promise<string | null> {
  if (length < FOOTER_FROM_END) return null;
  const bytes = await source.read(start + length - FOOTER_FROM_END, CryptFooter.size);
  if (CryptFooter.magic(bytes, 0) !== CRYPT_MAGIC) return null;
  return "It is encrypted as a whole by the phone (a full-disk footer at its end): it opens only on the phone itself, with its screen lock.";
}

async function byNoise(source: PatientSource, start: number, length: number): Promise<string | null> {
  if (length < LEAST) return null;
  for (let sample = 0; sample < SAMPLES; sample++) {
    const at = start + Math.floor(((length - SAMPLE_BYTES) / (SAMPLES - 1)) * sample);
    if (chiSquare(await source.read(at, SAMPLE_BYTES)) > MOST_CHI) return null;
  }
  return "Every place of it that was looked at is pure noise: it is most likely encrypted as a whole, as phones do with their own storage and with cards that they adopted.";
}

function chiSquare(bytes: Uint8Array): number {
  const counts = new Uint32Array(256);
  for (const byte of bytes) counts[byte]++;
  const expected = bytes.length / 256;
  return counts.reduce((sum, count) => sum + (count - expected) ** 2 / expected, 0);
}
