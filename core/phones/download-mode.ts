import { z } from "zod";
import type { Sha256 } from "../bytes/hash.ts";
import { UnusableError } from "../bytes/source.ts";
import type { BytePipe } from "./byte-pipe.ts";
import { PieceQueue } from "./piece-queue.ts";

/**
 * Download mode. Makers publish no protocol for it, so this is one of our own, which practice phones speak: messages of
 * JSON with their length before them (4 bytes, big-endian), image data as it is. Real phones need their maker's.
 */
const LENGTH_BYTES = 4;
const MAX_MESSAGE = 4096;
const PIECE = 256 * 1024;

/** What may be written anew. The user's data is not among them, by type. */
export const SYSTEM_PARTITIONS = ["boot", "recovery", "system", "vendor"] as const;
export type SystemPartition = (typeof SYSTEM_PARTITIONS)[number];

export const DownloadRequest = z.discriminatedUnion("say", [
  z.object({ say: z.literal("identify") }),
  z.object({
    say: z.literal("repair"),
    build: z.string().max(64),
    partition: z.string().max(32),
    bytes: z.number().int().positive(),
    sha256: z.string().regex(/^[0-9a-f]{64}$/),
  }),
  z.object({ say: z.literal("restart") }),
]);
export type DownloadRequest = z.infer<typeof DownloadRequest>;

export const DownloadAnswer = z.discriminatedUnion("answer", [
  z.object({ answer: z.literal("identity"), model: z.string().max(64), build: z.string().max(64), battery: z.number().min(0).max(100) }),
  z.object({ answer: z.literal("send") }),
  z.object({ answer: z.literal("done") }),
  z.object({ answer: z.literal("refused"), because: z.string().max(400) }),
]);
export type DownloadAnswer = z.infer<typeof DownloadAnswer>;
export type Identity = Extract<DownloadAnswer, { answer: "identity" }>;

/** The first line of a system image: what it is for, and the partitions that follow it in this order. */
const Manifest = z.object({
  image: z.literal("system image"),
  model: z.string().min(1).max(64),
  build: z.string().min(1).max(64),
  partitions: z
    .array(
      z.object({
        name: z.enum(SYSTEM_PARTITIONS),
        bytes: z
          .number()
          .int()
          .positive()
          .max(2 ** 33),
        sha256: z.string().regex(/^[0-9a-f]{64}$/),
      }),
    )
    .min(1)
    .max(8),
});
const MAX_MANIFEST = 8192;

export interface SystemImage extends z.infer<typeof Manifest> {
  /** Bytes of the first line, its end included: the partitions begin here. */
  readonly head: number;
}

/** Reads what a system image says of itself. @throws UnusableError in plain words, for an image of the user's data too */
function readSystemImage(bytes: Uint8Array): SystemImage {
  const end = bytes.subarray(0, MAX_MANIFEST).indexOf(10);
  let said: unknown = null;
  try {
    if (end > 0) said = JSON.parse(new TextDecoder("utf-8", { fatal: true }).decode(bytes.subarray(0, end)));
  } catch {
    // What is no JSON is no manifest: said below.
  }
  const named = z.object({ partitions: z.array(z.object({ name: z.string() })) }).safeParse(said).data;
  if (named?.partitions.some(({ name }) => /data/i.test(name)))
    throw new UnusableError("This image would write over the user's data: Jubar never does that.");
  const manifest = Manifest.safeParse(said);
  if (!manifest.success)
    throw new UnusableError("This file is no system image that Jubar knows: its first line does not say what it is for.");
  const whole = manifest.data.partitions.reduce((sum, partition) => sum + partition.bytes, end + 1);
  if (whole !== bytes.length) throw new UnusableError(`This system image is cut: ${bytes.length} of ${whole} bytes are there.`);
  return { ...manifest.data, head: end + 1 };
}

/** Below this charge nothing is written: a phone that goes out in the middle may never start again. */
const LEAST_BATTERY = 20;

/** Why this image must not be written to this phone, or null. The model and the build code have to agree to the letter. */
function refusalOf(image: SystemImage, phone: Identity): string | null {
  if (image.model !== phone.model) return `The image is for ${image.model}, the phone is a ${phone.model}.`;
  if (image.build !== phone.build) return `The image has build code ${image.build}, the phone has ${phone.build}: one letter off is off.`;
  if (phone.battery < LEAST_BATTERY) return `The battery is at ${phone.battery} %: charge it to ${LEAST_BATTERY} % first, better 50 %.`;
  return null;
}

export const encodeMessage = (message: DownloadRequest | DownloadAnswer): Uint8Array => {
  const text = new TextEncoder().encode(JSON.stringify(message));
  const bytes = new Uint8Array(LENGTH_BYTES + text.length);
  new DataView(bytes.buffer).setUint32(0, text.length);
  bytes.set(text, LENGTH_BYTES);
  return bytes;
};

/** Reads one message of a queue. @throws UnusableError for what is none */
export async function hearMessage<T>(arriving: PieceQueue, schema: z.ZodType<T>): Promise<T> {
  const head = await arriving.exactly(LENGTH_BYTES);
  const length = new DataView(head.buffer, head.byteOffset).getUint32(0);
  const refused = new UnusableError("What is attached does not answer as download mode does.");
  if (length > MAX_MESSAGE) throw refused;
  try {
    return schema.parse(JSON.parse(new TextDecoder("utf-8", { fatal: true }).decode(await arriving.exactly(length))));
  } catch (cause) {
    throw cause instanceof UnusableError ? cause : refused;
  }
}

export class DownloadMode {
  readonly #pipe: BytePipe;
  readonly #arriving: PieceQueue;

  constructor(pipe: BytePipe) {
    this.#pipe = pipe;
    this.#arriving = new PieceQueue(pipe);
  }

  async #ask(request: DownloadRequest): Promise<DownloadAnswer> {
    this.#pipe.send(encodeMessage(request));
    const answer = await hearMessage(this.#arriving, DownloadAnswer);
    if (answer.answer === "refused") throw new UnusableError(`The phone refuses: ${answer.because}`);
    return answer;
  }

  async identify(): Promise<Identity> {
    const answer = await this.#ask({ say: "identify" });
    if (answer.answer !== "identity") throw new UnusableError("The phone does not say what it is.");
    return answer;
  }

  /**
   * Writes the system partitions of an image anew, after everything was held against the phone and every partition's hash
   * against the image. @returns the partitions written. @throws UnusableError for a refusal, before anything was sent
   */
  async repair(bytes: Uint8Array, sha256: Sha256, progress: (sent: number, total: number) => void): Promise<SystemPartition[]> {
    const image = readSystemImage(bytes);
    const because = refusalOf(image, await this.identify());
    if (because) throw new UnusableError(because);
    const parts = image.partitions.map((partition, index) => {
      const from = image.head + image.partitions.slice(0, index).reduce((sum, one) => sum + one.bytes, 0);
      return { ...partition, content: bytes.subarray(from, from + partition.bytes) };
    });
    for (const { name, content, sha256: promised } of parts) {
      sha256.start();
      sha256.update(content);
      if (sha256.digest() !== promised) throw new UnusableError(`The image is damaged: its ${name} is not what it says it is.`);
    }
    let sent = 0;
    const total = parts.reduce((sum, part) => sum + part.bytes, 0);
    for (const { name, content, bytes: length, sha256: hash } of parts) {
      await this.#ask({ say: "repair", build: image.build, partition: name, bytes: length, sha256: hash });
      for (let at = 0; at < length; at += PIECE) {
        this.#pipe.send(content.subarray(at, at + PIECE));
        progress((sent += Math.min(PIECE, length - at)), total);
      }
      const answer = await hearMessage(this.#arriving, DownloadAnswer);
      if (answer.answer !== "done")
        throw new UnusableError(`The phone did not take ${name}${answer.answer === "refused" ? `: ${answer.because}` : "."}`);
    }
    return parts.map(({ name }) => name);
  }

  restart(): void {
    this.#pipe.send(encodeMessage({ say: "restart" }));
  }

  close(): void {
    this.#pipe.close();
  }
}
