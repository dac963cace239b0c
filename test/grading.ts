import { totalLength } from "../core/bytes/extents.ts";
import type { Find } from "../core/finds/find.ts";
import type { DiskTruth } from "./kept-images.ts";

/** Of a class of files: how many there are, and which of them did not come back as they should. */
export interface Graded {
  readonly files: number;
  readonly missed: readonly string[];
}

export interface Grades {
  /** Still there: identical, with path and state. */
  readonly present: Graded;
  readonly binned: Graded;
  /** Erased, all bytes left, and a record that leads to them: identical, with name, folder or not. */
  readonly recorded: Graded;
  /** Of those: the right name, and the right date within two seconds. */
  readonly named: Graded;
  readonly dated: Graded;
  /** Erased, all bytes left in one piece, no record: identical, by content alone. */
  readonly unrecorded: Graded;
  /** Erased, a part left, with a record: at least nine tenths of what is left lie in one find. */
  readonly partial: Graded;
  /** Names of finds that are called whole and erased, but are none of the files and no part of one. */
  readonly neverThere: readonly string[];
  /** Finds that are called erased, but are files that are there. */
  readonly presentAsErased: readonly string[];
}

const baseOf = (path: string): string => path.slice(path.lastIndexOf("/") + 1);

/** Holds finds against what was really on an image. Identity is by SHA-256. */
export function grade(finds: readonly Find[], truth: DiskTruth): Grades {
  const byHash = new Map<string, Find[]>();
  for (const find of finds) if (find.sha256) byHash.set(find.sha256, [...(byHash.get(find.sha256) ?? []), find]);
  const hitsOf = (file: DiskTruth["files"][number]) => (byHash.get(file.sha256) ?? []).filter(({ state }) => state === file.state);
  const graded = (files: readonly DiskTruth["files"][number][], isRight: (file: DiskTruth["files"][number]) => boolean): Graded => ({
    files: files.length,
    missed: files.filter((file) => !isRight(file)).map(({ path }) => path),
  });
  const of = (state: Find["state"]) => truth.files.filter((file) => file.state === state);
  const standing = (file: DiskTruth["files"][number]) =>
    hitsOf(file).some(({ path }) => path?.normalize("NFC") === file.path.normalize("NFC"));
  const recorded = of("erased").filter((file) => file.recorded && file.survives === "intact");
  const known = new Set(truth.files.map(({ sha256 }) => sha256));
  const present = new Set(truth.files.filter(({ state }) => state !== "erased").map(({ sha256 }) => sha256));
  const erased = new Set(of("erased").map(({ sha256 }) => sha256));
  return {
    present: graded(of("present"), standing),
    binned: graded(of("binned"), standing),
    recorded: graded(recorded, (file) => hitsOf(file).length > 0),
    // A lone short entry has lost the first letter of its name.
    named: graded(
      recorded.filter(({ nameSurvives }) => nameSurvives),
      (file) => hitsOf(file).some(({ name }) => name === baseOf(file.path) || name === `?${baseOf(file.path).slice(1)}`),
    ),
    dated: graded(recorded, (file) =>
      hitsOf(file).some(({ modified }) => modified !== null && Math.abs(modified - Date.parse(file.modified)) <= 2000),
    ),
    unrecorded: graded(
      of("erased").filter((file) => !file.recorded && file.survives === "intact" && file.pieces === 1),
      (file) => hitsOf(file).length > 0,
    ),
    partial: graded(
      of("erased").filter((file) => file.recorded && file.survives === "partial"),
      (file) =>
        finds.some(
          ({ state, name, size, extents, condition }) =>
            state === "erased" &&
            condition !== "whole" &&
            (file.nameSurvives ? name === baseOf(file.path) : size === file.size) &&
            totalLength(extents.filter(({ offset }) => offset >= 0)) >= 0.9 * leftOf(file),
        ),
    ),
    neverThere: finds
      .filter(
        ({ state, condition, inside, size, sha256 }) =>
          state === "erased" && condition === "whole" && !inside && size > 0 && !known.has(sha256 ?? ""),
      )
      .map(({ id, name }) => name ?? id),
    presentAsErased: finds
      .filter(({ state, inside, sha256 }) => state === "erased" && !inside && sha256 !== null && present.has(sha256) && !erased.has(sha256))
      .map(({ id, name }) => name ?? id),
  };
}

const leftOf = (file: DiskTruth["files"][number]): number => (file.intactRanges ?? []).reduce((sum, [, length]) => sum + length, 0);
