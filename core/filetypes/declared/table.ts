import type { ByteSource } from "../../bytes/source.ts";
import { borneOut } from "./borne-out.ts";
import type { Declared, DeclaredType } from "./declared.ts";
import { adts, amr, mp3 } from "./frames.ts";
import { bmp, riff, sqlite, tiff } from "./headers.ts";
import { matroska } from "./matroska.ts";
import { text } from "./text.ts";
import { gif, isoMedia, ogg, pdf, zip } from "./walked.ts";

/** Formats that are known by their beginning and followed to the end that they declare. Text last: much begins like it. */
export const DECLARED_TYPES: readonly DeclaredType[] = [
  riff,
  bmp,
  sqlite,
  tiff,
  matroska,
  isoMedia,
  zip,
  ogg,
  gif,
  pdf,
  adts,
  mp3,
  amr,
  text,
];

export const DECLARED_HEAD = Math.max(...DECLARED_TYPES.map(({ beginsBytes }) => beginsBytes));

/** The format that begins at `at`, or null. */
export const declaredAt = (bytes: Uint8Array, at: number): DeclaredType | null =>
  DECLARED_TYPES.find(
    (type) => (type.firstByte === null || type.firstByte === bytes[at]) && at + type.beginsBytes <= bytes.length && type.begins(bytes, at),
  ) ?? null;

/** Follows a content of a format to the end that it declares, and no further than there is of it. Null: it is none after all. */
export async function declaredOf(type: DeclaredType, content: ByteSource): Promise<Declared | null> {
  const declared = await type.declare(content);
  return declared && borneOut(content, declared);
}
