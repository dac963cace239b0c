import type { ByteSource } from "../../bytes/source.ts";
import type { Kind } from "../file-type.ts";

/** How far a content says that it goes. Nothing in it is checked beyond what leads to its end. */
export interface Declared {
  readonly format: string;
  readonly kind: Kind;
  /** Bytes from its beginning. */
  readonly length: number;
  /** It was followed to an end of its own; false: to where it breaks off. */
  readonly ends: boolean;
}

/** A format that is known by its beginning and says itself how long it is. */
export interface DeclaredType {
  /** First byte of every content of this format, or null where it may be any of several. */
  readonly firstByte: number | null;
  /** Bytes that `begins` looks at. */
  readonly beginsBytes: number;
  begins(bytes: Uint8Array, at: number): boolean;
  /** Follows a content that begins at byte 0 and may run on far beyond its end. Null: it is none after all. */
  declare(content: ByteSource): Promise<Declared | null>;
}

export const ascii = (bytes: Uint8Array, at: number, words: string): boolean => {
  for (let index = 0; index < words.length; index++) if (bytes[at + index] !== words.charCodeAt(index)) return false;
  return true;
};

/** A length is believed where it leaves something and is not longer than what there is. */
export const within = (content: ByteSource, length: number): Pick<Declared, "length" | "ends"> =>
  length <= content.size ? { length, ends: true } : { length: content.size, ends: false };

/** Reads up to `length` bytes at `at`: fewer at the end. */
export const some = (content: ByteSource, at: number, length: number): Promise<Uint8Array> =>
  content.read(Math.min(at, content.size), Math.max(0, Math.min(length, content.size - at)));
