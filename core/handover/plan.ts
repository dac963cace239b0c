import { formatNamed } from "../filetypes/table.ts";
import { type Find, KIND_WORDS } from "../finds/find.ts";
import type { Item } from "./item.ts";
import { cleanName, freeName } from "./names.ts";

/** What an item without a name is called: the moment it was taken, else where it was found. */
function nameOf(find: Find): string {
  if (find.name) return find.name;
  const moment =
    find.taken === null
      ? `found at ${find.extents[0]?.offset ?? 0}`
      : new Date(find.taken).toISOString().slice(0, 19).replace("T", " ").replaceAll(":", ".");
  return `${moment}.${formatNamed(find.format).endings[0] ?? "bin"}`;
}

/** An item of a find, as it lies on its medium. */
export interface FindItem<F extends Find = Find> extends Item<F> {
  readonly find: F;
}

/** What has a sub-folder of its own: each kind, or each format. */
export type Folders = "kind" | "format";

const folderOf = ({ kind, format }: Find, folders: Folders): string => (folders === "kind" ? KIND_WORDS[kind] : cleanName(format));

/**
 * A sub-folder per kind or format, original names kept, unsafe ones cleaned, same ones numbered. Finds without content are left out.
 * `there`: names that stand in a sub-folder already. The medium of each is asked for by its find.
 */
export function planFiles<F extends Find>(
  finds: readonly F[],
  there: Readonly<Record<string, readonly string[]>> = {},
  folders: Folders = "kind",
): FindItem<F>[] {
  const taken = new Map(Object.entries(there).map(([folder, names]) => [folder, new Set(names.map((name) => name.toLowerCase()))]));
  return finds
    .filter((find) => find.extents.length > 0 || find.size === 0)
    .map((find) => {
      const { extents, packed, size, sha256, state, condition } = find;
      const folder = folderOf(find, folders);
      const names = taken.get(folder) ?? new Set<string>();
      taken.set(folder, names);
      return {
        find,
        path: `${folder}/${freeName(cleanName(nameOf(find)), names)}`,
        pieces: { medium: find, extents, size, ...(packed && { packed }) },
        sha256,
        about: `${state}, ${condition}`,
      };
    });
}
