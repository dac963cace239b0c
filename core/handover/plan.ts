import { formatNamed } from "../filetypes/table.ts";
import { type Find, KIND_WORDS } from "../finds/find.ts";
import { cleanName, freeName } from "./names.ts";

/** One file that will be written: its find, and its path under the destination with forward slashes. */
export interface PlannedFile<F extends Find = Find> {
  readonly find: F;
  readonly path: string;
}

/** What an item without a name is called: the moment it was taken, else where it was found. */
function nameOf(find: Find): string {
  if (find.name) return find.name;
  const moment =
    find.taken === null
      ? `found at ${find.extents[0]?.offset ?? 0}`
      : new Date(find.taken).toISOString().slice(0, 19).replace("T", " ").replaceAll(":", ".");
  return `${moment}.${formatNamed(find.format).endings[0] ?? "bin"}`;
}

/**
 * A sub-folder per kind, original names kept, unsafe ones cleaned, same ones numbered. Finds without content are left out.
 * `there`: names that stand in a sub-folder already.
 */
export function planFiles<F extends Find>(finds: readonly F[], there: Readonly<Record<string, readonly string[]>> = {}): PlannedFile<F>[] {
  const taken = new Map(Object.entries(there).map(([folder, names]) => [folder, new Set(names.map((name) => name.toLowerCase()))]));
  return finds
    .filter((find) => find.extents.length > 0 || find.size === 0)
    .map((find) => {
      const folder = KIND_WORDS[find.kind];
      const names = taken.get(folder) ?? new Set<string>();
      taken.set(folder, names);
      return { find, path: `${folder}/${freeName(cleanName(nameOf(find)), names)}` };
    });
}
