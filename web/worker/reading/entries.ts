import { entriesOf } from "../../../core/archives/open.ts";
import type { Contents } from "../../../core/archives/stream.ts";
import type { Opening } from "../../../core/filetypes/format.ts";
import { formatNamed } from "../../../core/filetypes/table.ts";
import { findKey } from "../../../core/finds/find-key.ts";
import { type Found, WRITTEN } from "../finds/protocol.ts";
import { decoded, MOST_BYTES } from "./decoders.ts";
import type { EntriesAnswer, ListedEntry } from "./protocol.ts";

/** Entries of an archive that are listed. */
const MOST_LISTED = 5000;
/** Apps are archives whose files are nobody's finds, but can be listed. */
const LISTED_AS: Readonly<Record<string, Opening>> = { apk: "zip" };
/** Documents of older forms are file systems of their own, of streams. */
const OF_STREAMS = new Set(["ole2"]);

/** What an archive, a backup or a document of streams holds, as far as it can be told. */
export async function entriesIn(find: Found, contents: Contents): Promise<EntriesAnswer> {
  const content = contents.of(find);
  if (OF_STREAMS.has(find.format)) {
    if (content.size > MOST_BYTES) return { word: "It is too large to be listed here: hand it over." };
    const streams = await decoded(content, (desk, bytes) => desk.streams(bytes));
    return { entries: streams.map((one) => ({ ...one, modified: null, key: null })), goesOn: false, troubles: [] };
  }
  const opens = formatNamed(find.format).opens ?? LISTED_AS[find.format];
  if (!opens) return { word: `${find.format.toUpperCase()} is not opened here: hand it over.` };
  const entries: ListedEntry[] = [];
  const troubles: string[] = [];
  for await (const { at, path, size, modified } of entriesOf(opens, content, (what) => troubles.push(what))) {
    if (entries.length === MOST_LISTED) return { entries, goesOn: true, troubles };
    // What was written is no scan's: nothing in it is a find of its own.
    const key = find.medium === WRITTEN ? null : findKey(find.medium, `${find.id}.${at.toString(16)}`);
    entries.push({ path, size, modified, key });
  }
  if (entries.length === 0) return { word: troubles[0] ? `Nothing of it can be listed: ${troubles[0]}.` : "Nothing is in it." };
  return { entries, goesOn: false, troubles };
}
