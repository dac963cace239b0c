import { some } from "../../bytes/pieces.ts";
import type { ByteSource } from "../../bytes/source.ts";
import type { Followed } from "../file-type.ts";
import type { Format } from "../format.ts";

export const ascii = (bytes: Uint8Array, at: number, words: string): boolean => {
  for (let index = 0; index < words.length; index++) if (bytes[at + index] !== words.charCodeAt(index)) return false;
  return true;
};

/** A length is believed where it leaves something and is not longer than what there is. */
export const within = (format: Format, content: ByteSource, length: number): Followed =>
  length <= content.size ? { format, length, ends: true } : { format, length: content.size, ends: false };

/** What is told of a content that breaks off at a byte. */
export const brokenOff = (format: Format, content: ByteSource, length: number): Followed => ({
  format,
  length: Math.min(length, content.size),
  ends: false,
});

export { some };

/** Steps over parts of a content before we stop believing. */
export const MAX_STEPS = 1_000_000;

/** A step over one part: how many bytes it takes; "end" where it is the last one, with its bytes; 0 where none begins there. */
export interface Step {
  readonly bytes: number;
  readonly last?: boolean;
}

/**
 * Steps over the parts of a content, each of which says how long it is, from `from` on. `stepAt` is given the first `headBytes` of each.
 * @returns where it ended, whether by a last part, and how many parts there were
 */
export async function overParts(
  content: ByteSource,
  from: number,
  headBytes: number,
  stepAt: (head: Uint8Array, at: number) => Step | null,
): Promise<{ length: number; ends: boolean; parts: number }> {
  let at = from;
  for (let parts = 0; parts < MAX_STEPS; parts++) {
    const step = stepAt(await some(content, at, headBytes), at);
    if (!step || step.bytes <= 0 || at + step.bytes > content.size) return { length: at, ends: false, parts };
    at += step.bytes;
    if (step.last) return { length: at, ends: true, parts: parts + 1 };
  }
  return { length: at, ends: false, parts: MAX_STEPS };
}
