import { Contents } from "../../../core/archives/stream.ts";
import { blobSource } from "../../../core/bytes/blob-source.ts";
import { memorySource } from "../../../core/bytes/memory-source.ts";
import { patientSource } from "../../../core/bytes/patient-source.ts";
import { formatNamed, formatOf, headerFacts, typeOf } from "../../../core/filetypes/table.ts";
import { findKey } from "../../../core/finds/find-key.ts";
import type { OpenMedium } from "../../../core/handover/item.ts";
import { NOTHING_KNOWN } from "../../../core/scan/followed-find.ts";
import { type Found, IN_A_ROW } from "../finds/protocol.ts";

/** Data of a row as a medium that holds nothing else, and the find that they are on it: told by what they begin with. */
export async function cellFind(row: string, column: string, data: Uint8Array): Promise<OpenMedium & { find: Found; file: Blob }> {
  const content = memorySource(data);
  const type = await typeOf(content);
  const { name, kind } = type ? await formatOf(type, content) : formatNamed("unknown");
  const walked = type?.reach === "checked" ? await type.measure(content) : null;
  const { pixels, seconds } = type && !walked ? await headerFacts(type, content) : { pixels: walked, seconds: null };
  const id = `${row}.${column}`;
  const find: Found = {
    ...NOTHING_KNOWN,
    id,
    key: findKey(IN_A_ROW, id),
    medium: IN_A_ROW,
    places: [],
    kind,
    format: name,
    state: "present",
    condition: walked?.condition ?? "whole",
    because: walked?.because ?? "It stands in a row of a table; nothing in Jubar checks contents of this format.",
    checked: walked !== null,
    name: column,
    size: data.length,
    width: pixels?.width ?? null,
    height: pixels?.height ?? null,
    seconds,
    shown: walked?.shown ?? null,
    extents: [{ offset: 0, length: data.length }],
    volume: null,
    evidence: [],
  };
  const file = new Blob([data as Uint8Array<ArrayBuffer>]);
  const source = patientSource(blobSource(file, column), {});
  return { find, file, source, contents: new Contents(source) };
}
