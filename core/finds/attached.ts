import type { Find } from "./find.ts";
import type { AttachmentValues } from "./record.ts";

/** Parts of a path from its end on, in small letters. What an app writes as an address has its signs written out (RFC 3986 §2.1). */
function partsOf(path: string): string[] {
  let plain = path;
  try {
    if (/^[a-z]+:\/\//i.test(path)) plain = decodeURIComponent(path);
  } catch {
    // Not every per cent sign is one of an address.
  }
  return plain.toLowerCase().split(/[/\\]/).filter(Boolean).reverse();
}

/** What a message calls its file: by its name, or the last part of its path; undefined where it says neither. */
export const fileNameOf = ({ name, path }: Pick<AttachmentValues, "name" | "path">): string | undefined =>
  name ?? path?.split(/[/\\]/).at(-1);

/** What a file is called by a path that a message names. Empty: nothing. */
export const calledBy = (path: string): string => partsOf(path)[0] ?? "";

/** Which of some finds of one name a message means: the one whose path has most in common with what it names, from the end on; of its own medium before others. */
export function meantBy<F extends Pick<Find, "path" | "name" | "state" | "condition"> & { readonly medium: number }>(
  path: string,
  medium: number,
  finds: readonly F[],
): F | null {
  const wanted = partsOf(path);
  const worth = (find: F): number => {
    const parts = partsOf(find.path ?? find.name ?? "");
    let common = 0;
    while (common < wanted.length && wanted[common] === parts[common]) common++;
    return common * 8 + (find.medium === medium ? 4 : 0) + (find.condition === "whole" ? 2 : 0) + (find.state === "erased" ? 0 : 1);
  };
  let best: F | null = null;
  for (const find of finds) if (partsOf(find.path ?? find.name ?? "")[0] === wanted[0] && (!best || worth(find) > worth(best))) best = find;
  return best;
}
