import type { ByteSource } from "../../bytes/source.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { Followed } from "../file-type.ts";
import type { Format } from "../format.ts";
import { some } from "./follow.ts";

/** Frames before we stop believing, and frames that must follow each other before chance is left behind. */
const MAX_FRAMES = 2_000_000;
const LEAST_FRAMES = 5;

/** Steps over frames from `from` on; `lengthOf` says how long the one is whose head it is given, 0 where none begins. */
export async function overFrames(
  source: ByteSource,
  from: number,
  lengthOf: (head: Uint8Array) => number,
): Promise<{ length: number; frames: number }> {
  const content = windowSource(source);
  let at = from;
  let frames = 0;
  for (; frames < MAX_FRAMES; frames++) {
    const length = lengthOf(await some(content, at, 10));
    if (length === 0 || at + length > content.size) break;
    at += length;
  }
  return { length: at, frames };
}

/** Frames that are counted to tell how long a sound is: a scan that only lists must not read all of it. */
const MOST_COUNTED = 1000;

/**
 * How long frames of that many seconds each last, from `from` on: counted, and of longer sounds worked out from how many bytes the first ones take.
 */
export async function lastingFrames(
  source: ByteSource,
  from: number,
  lengthOf: (head: Uint8Array) => number,
  each: number,
): Promise<number> {
  let counted = 0;
  const { length, frames } = await overFrames(source, from, (head) => (counted++ < MOST_COUNTED ? lengthOf(head) : 0));
  const isCut = counted > MOST_COUNTED;
  return frames * each * (isCut ? (source.size - from) / (length - from) : 1);
}

/** Sound of frames that follow each other: enough of them are no chance. */
export const framesOf = (format: Format, { length, frames }: { length: number; frames: number }): Followed | null =>
  frames >= LEAST_FRAMES ? { format, length, ends: true } : null;
