import type { PatientSource } from "../../bytes/patient-source.ts";
import type { Trouble } from "../../bytes/trouble.ts";
import { FIRST_CLUSTER, Link } from "../clusters/cluster-map.ts";
import { ENTRY_BITS, type Geometry } from "./geometry.ts";
import { FAT_ENTRY_MASK } from "./layout.ts";

/** Table bytes read at a time. */
const WINDOW = 1024 * 1024;
/** Differences between the two tables that are told one by one. */
const MAX_TOLD = 8;

/** One copy of the table, and which of its bytes could not be read. */
async function readCopy(
  source: PatientSource,
  at: number,
  length: number,
): Promise<{ bytes: Uint8Array; holes: { from: number; to: number }[] }> {
  const bytes = new Uint8Array(length);
  const there = Math.min(length, Math.max(0, source.size - at));
  for (let done = 0; done < there; done += WINDOW) bytes.set(await source.read(at + done, Math.min(WINDOW, there - done)), done);
  const holes = source.unreadable
    .list()
    .map((hole) => ({ from: Math.max(0, hole.offset - at), to: Math.min(there, hole.offset + hole.length - at) }))
    .filter(({ from, to }) => from < to);
  if (there < length) holes.push({ from: there, to: length });
  return { bytes, holes };
}

/** Entries as those of FAT32: 12 and 16 bits are widened, their marks with them. */
function widen(bytes: Uint8Array, count: number, type: Geometry["type"]): Uint32Array {
  const links = new Uint32Array(count);
  const marks = { FAT12: 0xff7, FAT16: 0xfff7, FAT32: Link.bad }[type];
  for (let index = 0; index < count; index++) {
    let value: number;
    if (type === "FAT32") {
      const at = index * 4;
      value = (bytes[at] | (bytes[at + 1] << 8) | (bytes[at + 2] << 16) | (bytes[at + 3] << 24)) & FAT_ENTRY_MASK;
    } else if (type === "FAT16") value = bytes[index * 2] | (bytes[index * 2 + 1] << 8);
    else {
      // "FAT12": two entries share three bytes.
      const at = index + (index >> 1);
      const pair = bytes[at] | (bytes[at + 1] << 8);
      value = index & 1 ? pair >> 4 : pair & 0xfff;
    }
    links[index] = value >= marks ? value - marks + Link.bad : value;
  }
  return links;
}

/**
 * The allocation table: the first copy; where it cannot be read, or where the two differ and only the other makes sense, the
 * second. `links`: one entry for each cluster number, in the form of FAT32.
 */
export async function readTable(source: PatientSource, geometry: Geometry): Promise<{ links: Uint32Array; troubles: Trouble[] }> {
  const count = geometry.clusterCount + FIRST_CLUSTER;
  const length = Math.ceil((count * ENTRY_BITS[geometry.type]) / 8);
  const troubles: Trouble[] = [];
  const [firstAt, copyAt] = geometry.fatOffsets;
  const first = await readCopy(source, firstAt, length);
  const copy = copyAt === undefined ? null : await readCopy(source, copyAt, length);
  for (const { from, to } of first.holes) {
    const copyThere = copy !== null && !copy.holes.some((hole) => hole.from < to && hole.to > from);
    if (copyThere) first.bytes.set(copy.bytes.subarray(from, to), from);
    const what = copyThere
      ? "a part of the allocation table cannot be read; its copy is used there"
      : "a part of the allocation table cannot be read";
    // What is cut off is said of the whole volume.
    if (firstAt + from < source.size) troubles.push({ what, at: firstAt + from, length: to - from });
  }
  const links = widen(first.bytes, count, geometry.type);
  if (copy && copy.holes.length === 0) troubles.push(...compare(links, widen(copy.bytes, count, geometry.type), geometry));
  return { links, troubles };
}

/** Entries that make sense: free, an end, a bad cluster, or another cluster of the volume. */
const makesSense = (link: number, count: number): boolean =>
  link === Link.free || link >= Link.bad || (link >= FIRST_CLUSTER && link < count);

/** Lays the copy's entries over those of the first table that make no sense; tells of differences. */
function compare(links: Uint32Array, copy: Uint32Array, geometry: Geometry): Trouble[] {
  let differing = 0;
  let mended = 0;
  const troubles: Trouble[] = [];
  for (let cluster = FIRST_CLUSTER; cluster < links.length; cluster++) {
    if (links[cluster] === copy[cluster]) continue;
    differing++;
    if (makesSense(links[cluster], links.length) || !makesSense(copy[cluster], links.length)) continue;
    mended++;
    if (mended <= MAX_TOLD)
      troubles.push({
        what: `the allocation table is broken at cluster ${cluster}; its copy is used there`,
        at: geometry.fatOffsets[0] + Math.floor((cluster * ENTRY_BITS[geometry.type]) / 8),
        length: 4,
      });
    links[cluster] = copy[cluster];
  }
  if (differing > 0)
    troubles.push({
      what: `the two allocation tables differ in ${differing} entries`,
      at: geometry.fatOffsets[1],
      length: geometry.fatBytes,
    });
  return troubles;
}
