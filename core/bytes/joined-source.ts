import { partsSource } from "./parts-source.ts";
import type { ByteSource } from "./source.ts";

/** Several sources one after the other: an image that was split into `.001 .002 …`. */
export const joinedSource = (parts: readonly ByteSource[], name: string): ByteSource =>
  partsSource(
    name,
    parts.map((part) => ({ length: part.size, read: (offset, length) => part.read(offset, length) })),
  );
