import type { Extent } from "../bytes/extents.ts";
import type { ByteSource } from "../bytes/source.ts";

/** How much of an item is there, computed from its bytes. */
export type Condition = "whole" | "damaged" | "small copy" | "remnant";

/** What walking the structure of one content from its first byte told. */
export interface Measure {
  /** Bytes from the beginning to the end of the structure, or to where it breaks. */
  readonly length: number;
  readonly condition: Condition;
  /** Why, in plain words. */
  readonly because: string;
  readonly width: number | null;
  readonly height: number | null;
  /** Part of the picture, from the top, that decodes: 0 to 1. Null when it cannot be told. */
  readonly shown: number | null;
  /** Where the walker saw camera data (EXIF): worth describing. */
  readonly hasExif: boolean;
}

/** What an item says about itself. Times are milliseconds since 1970 of the camera's own clock, without time zone. */
export interface Description {
  readonly taken: number | null;
  readonly camera: string | null;
  readonly place: { readonly latitude: number; readonly longitude: number } | null;
  /** Dimensions of the original, where a copy still names them (EXIF PixelXDimension). */
  readonly originalWidth: number | null;
  /** A preview held inside: where it begins in the content, bytes, and how long it is. */
  readonly thumbnail: { readonly offset: number; readonly length: number } | null;
}

export type Kind = "photo" | "video" | "audio" | "document" | "archive" | "database" | "app" | "other";

/** One file format: how it begins, how long it is, how whole it is. */
export interface FileType {
  readonly format: string;
  readonly kind: Kind;
  /** Bytes needed by `begins`. */
  readonly beginsBytes: number;
  /** First byte of every content of this format: the cheap first look of the sweep. */
  readonly firstByte: number;
  /** Does a content of this format begin at `at`? `bytes` holds at least `beginsBytes` from there. */
  begins(bytes: Uint8Array, at: number): boolean;
  /** Walks the structure of a content that begins at byte 0 of `content`, which may run on far beyond its end. */
  measure(content: ByteSource): Promise<Measure>;
  /**
   * Where a content ends whose walk broke off in or behind bytes that the medium does not give: `lost`, in order, read as zeros. Null where
   * nothing shows that it goes on behind them.
   */
  endBehind?(content: ByteSource, brokeAt: number, lost: readonly Extent[]): Promise<number | null>;
}
