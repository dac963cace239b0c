import { ALL_FORMATS, BlobSource, BufferTarget, Conversion, Input, Mp4OutputFormat, Output, UrlSource } from "mediabunny";

/** A film, by its bytes or by an address of the own server. */
export type Film = Blob | string;

export const inputOf = (film: Film): Input =>
  new Input({ formats: ALL_FORMATS, source: typeof film === "string" ? new UrlSource(film) : new BlobSource(film) });

/** ISO/IEC 13818-1 §2.4.3.2: packets of 188 bytes that begin with 47; cameras put four bytes of a clock before each. */
const PACKET = 188;
const CLOCK = 4;
const SYNC = 0x47;

/** The packets alone, where each has a clock before it: of so many bytes, all of them in memory. */
export async function withoutClocks(film: Film, most = Number.POSITIVE_INFINITY): Promise<Film> {
  const blob = typeof film === "string" ? null : film;
  const head = blob && new Uint8Array(await blob.slice(0, 2 * (PACKET + CLOCK)).arrayBuffer());
  if (!blob || !head || head[0] === SYNC || head[CLOCK] !== SYNC || head[PACKET + 2 * CLOCK] !== SYNC) return film;
  const bytes = new Uint8Array(await blob.slice(0, most).arrayBuffer());
  const packets = Math.floor(bytes.length / (PACKET + CLOCK));
  for (let packet = 0; packet < packets; packet++) {
    const from = packet * (PACKET + CLOCK) + CLOCK;
    bytes.copyWithin(packet * PACKET, from, from + PACKET);
  }
  return new Blob([bytes.subarray(0, packets * PACKET)]);
}

/** Puts the streams of a transport stream (ISO/IEC 13818-1) into a form that browsers play: nothing is coded anew. @throws where no browser would play them */
export async function asMp4(film: Film): Promise<Blob> {
  const input = inputOf(await withoutClocks(film));
  try {
    const target = new BufferTarget();
    const output = new Output({ format: new Mp4OutputFormat(), target });
    const conversion = await Conversion.init({ input, output });
    if (!conversion.isValid) throw new Error("what it is coded in is not among what browsers play");
    await conversion.execute();
    return new Blob([target.buffer ?? new ArrayBuffer(0)], { type: "video/mp4" });
  } finally {
    input.dispose();
  }
}
