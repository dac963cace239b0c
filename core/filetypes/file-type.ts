import type { Extent } from "../bytes/extents.ts";
import type { ByteSource } from "../bytes/source.ts";
import type { Format } from "./format.ts";

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

/** How far a content says that it goes. Nothing in it is checked beyond what leads to its end. */
export interface Followed {
  readonly format: Format;
  /** Bytes from its beginning. */
  readonly length: number;
  /** It was followed to an end of its own; false: to where it breaks off. */
  readonly ends: boolean;
}

/** How large a picture is. */
export interface Pixels {
  readonly width: number;
  readonly height: number;
}

/** What a content says of itself where it was not walked. */
export interface HeaderFacts {
  readonly pixels: Pixels | null;
  readonly seconds: number | null;
}

interface Beginning {
  /** What contents of this type may be: the first one unless a content tells a narrower one. */
  readonly formats: readonly [Format, ...Format[]];
  /** Bytes that stand at `markAt` (its first one, if it is not said) of every content of this type: the cheap first look. */
  readonly firstBytes: readonly number[];
  readonly markAt?: number;
  /** Bytes that `begins` looks at. */
  readonly beginsBytes: number;
  /** Does a content of this type begin at `at`? `bytes` holds at least `beginsBytes` from there. */
  begins(bytes: Uint8Array, at: number): boolean;
  /** Other contents look like it in their middle: it is taken only where files begin, and where nothing else tells of these bytes. */
  readonly byChance?: true;
  /** Which of its formats a content is, by a few places of it. Without it: the first one. */
  narrow?(content: ByteSource): Promise<Format>;
  /**
   * How large the picture of a content is by its own header: a few places of it are read, nothing is decoded. Null: it does not say, or has none.
   * Types that are walked to their end tell it in their measure.
   */
  pixels?(content: ByteSource): Promise<Pixels | null>;
  /** How long a film or a sound lasts by its own word, in seconds: a few places of it are read. Null: it does not say. */
  seconds?(content: ByteSource): Promise<number | null>;
  /** Where in a content pictures lie that were put there to be looked at, as JPEGs: what is shown of one that is not decoded itself. */
  inner?(content: ByteSource): Promise<readonly Extent[]>;
}

/** A type whose contents are walked to their end, every part checked. */
export interface CheckedType extends Beginning {
  readonly reach: "checked";
  /** Walks the structure of a content that begins at byte 0 of `content`, which may run on far beyond its end. */
  measure(content: ByteSource): Promise<Measure>;
  /**
   * Where a content ends whose walk broke off in or behind bytes that the medium does not give: `lost`, in order, read as zeros. Null where
   * nothing shows that it goes on behind them.
   */
  endBehind?(content: ByteSource, brokeAt: number, lost: readonly Extent[]): Promise<number | null>;
  /** Do cameras and systems keep small copies of pictures in it? */
  readonly isKeptSmall: boolean;
  /** What a decoder wants behind a content that breaks off before it shows what is left. */
  readonly mend?: Uint8Array;
}

/** A type that is known by its beginning and says itself how long its contents are: followed to their end, nothing in them checked. */
export interface FollowedType extends Beginning {
  readonly reach: "followed";
  /** Follows a content that begins at byte 0 and may run on far beyond its end. Null: it is none after all. */
  follow(content: ByteSource): Promise<Followed | null>;
}

/** One type of contents: how they begin, how long they are, how whole. Adding one is adding its file and its line in table.ts. */
export type FileType = CheckedType | FollowedType;
