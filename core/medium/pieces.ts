import { partsSource } from "../bytes/parts-source.ts";
import { type ByteSource, UnreadableError, UnusableError, withTroubles } from "../bytes/source.ts";
import type { Trouble } from "../bytes/trouble.ts";

/** A piece of an image that was split: `card.img.001`, `card.img.002` … (common practice, no source). */
export interface PieceName {
  /** What all of them begin with: `card.img`. */
  readonly whole: string;
  /** From 1 on. */
  readonly number: number;
  /** Digits of the number. */
  readonly digits: number;
}

/** More pieces than this are no split image. */
export const MOST_PIECES = 9999;

/** Is a file a piece of a split image, by its name? */
export function pieceOf(name: string): PieceName | null {
  const [, whole, digits] = /^(.+)\.(\d{3,4})$/.exec(name) ?? [];
  return whole && Number(digits) > 0 ? { whole, number: Number(digits), digits: digits.length } : null;
}

export const pieceName = ({ whole, digits }: PieceName, number: number): string => `${whole}.${String(number).padStart(digits, "0")}`;

/**
 * All pieces as one image. One that is missing between others is a hole as long as they are: it is said, and nothing of it counts as read. A first piece
 * alone is said too: what follows it is not there.
 * @param pieces in any order; names as `pieceOf` reads them
 * @throws UnusableError without a first piece: nothing says then where anything lies
 */
export function joinedPieces(pieces: readonly ByteSource[]): ByteSource {
  const named = pieces.map((source) => ({ source, name: pieceOf(source.name) }));
  const known = new Map(named.flatMap(({ source, name }) => (name ? [[name.number, source] as const] : [])));
  const [first] = named;
  if (!first?.name) throw new UnusableError("These are no pieces of one image: their names do not end in .001, .002 …");
  const { name } = first;
  const beginning = known.get(1);
  if (!beginning)
    throw new UnusableError(
      `${pieceName(name, 1)} is missing: without the first piece nothing says where anything lies. Put all pieces on the bench together.`,
    );
  const last = Math.max(...known.keys());
  const missing = Array.from({ length: last }, (_, index) => index + 1).filter((number) => !known.has(number));
  const troubles: Trouble[] = [];
  const holes: { offset: number; length: number }[] = [];
  let at = 0;
  const parts = Array.from({ length: last }, (_, index) => {
    const own = known.get(index + 1);
    const length = own?.size ?? beginning.size;
    if (!own) {
      holes.push({ offset: at, length });
      troubles.push({ what: `the piece ${pieceName(name, index + 1)} is missing: nothing of it is read`, at, length });
    }
    at += length;
    return {
      length,
      read: async (offset: number, wanted: number): Promise<Uint8Array> => {
        if (!own) throw new UnreadableError(offset, wanted, "this piece of the image is missing", true);
        return own.read(offset, wanted);
      },
    };
  });
  if (last === 1)
    troubles.push({
      what: `only the first piece of this image is here (${pieceName(name, 1)}): what follows it is not read`,
      at: 0,
      length: at,
    });
  const joined = partsSource(name.whole, parts);
  const source: ByteSource = missing.length > 0 ? { ...joined, holes } : joined;
  return withTroubles(source, troubles);
}
