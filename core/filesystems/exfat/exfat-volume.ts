import { extentsSource, firstBytes } from "../../bytes/extents.ts";
import type { PatientSource } from "../../bytes/patient-source.ts";
import type { Trouble } from "../../bytes/trouble.ts";
import { ClusterMap, FIRST_CLUSTER, Link } from "../clusters/cluster-map.ts";
import { ClusterVolume } from "../clusters/cluster-volume.ts";
import { cutOff, type Volume } from "../volume.ts";
import { tableChecksum } from "./checks.ts";
import { exfatFolders } from "./directory.ts";
import { findGeometry, type Geometry } from "./geometry.ts";
import { ENTRY_BYTES, LabelEntry, TableEntry, Type } from "./layout.ts";

const WINDOW = 1024 * 1024;
/** Clusters of the root folder that are looked through for the bitmap: it stands among its first entries. */
const ROOT_CLUSTERS = 64;
const MAX_UPCASE = 128 * 1024;

/** The table of links, in the form of FAT32's. */
async function readLinks(source: PatientSource, geometry: Geometry): Promise<Uint32Array> {
  const links = new Uint32Array(geometry.clusterCount + FIRST_CLUSTER);
  const length = Math.min(links.length * 4, Math.max(0, source.size - geometry.fatOffset));
  for (let done = 0; done < length; done += WINDOW) {
    const bytes = await source.read(geometry.fatOffset + done, Math.min(WINDOW, length - done));
    for (let at = 0; at + 4 <= bytes.length; at += 4) {
      const link = (bytes[at] | (bytes[at + 1] << 8) | (bytes[at + 2] << 16) | (bytes[at + 3] << 24)) >>> 0;
      // §4.1.2: FFFFFFF7 a bad cluster, FFFFFFFF the end. Numbers beyond the volume lead nowhere.
      links[(done + at) / 4] =
        link >= 0xffff_fff8 ? Link.end : link === 0xffff_fff7 ? Link.bad : link > geometry.clusterCount + 1 ? Link.bad : link;
    }
  }
  return links;
}

/** What the root folder says of the volume itself. */
interface RootSays {
  readonly label: string | null;
  readonly bitmap: { readonly firstCluster: number; readonly length: number } | null;
  readonly upCase: { readonly firstCluster: number; readonly length: number; readonly checksum: number } | null;
}

function readRoot(bytes: Uint8Array): RootSays {
  let says: RootSays = { label: null, bitmap: null, upCase: null };
  for (let at = 0; at + ENTRY_BYTES <= bytes.length && bytes[at] !== Type.end; at += ENTRY_BYTES) {
    const table = { firstCluster: TableEntry.FirstCluster(bytes, at), length: TableEntry.DataLength(bytes, at) };
    if (bytes[at] === Type.bitmap && (TableEntry.BitmapFlags(bytes, at) & 1) === 0) says = { ...says, bitmap: table };
    if (bytes[at] === Type.upCase) says = { ...says, upCase: { ...table, checksum: TableEntry.TableChecksum(bytes, at) } };
    if (bytes[at] === Type.label) {
      const units = LabelEntry.VolumeLabel(bytes, at).subarray(0, Math.min(11, LabelEntry.CharacterCount(bytes, at)) * 2);
      says = { ...says, label: new TextDecoder("utf-16le").decode(units) || null };
    }
  }
  return says;
}

/** Opens an exFAT volume that begins at `start` of the source. Null: there is none. */
export async function openExfat(source: PatientSource, start: number, length: number, index: number): Promise<Volume | null> {
  const found = await findGeometry(source, start, length);
  if (!found) return null;
  const { geometry } = found;
  const troubles: Trouble[] = [];
  if (found.from === "backup") troubles.push({ what: "the boot sectors are lost; their copies are used", at: start, length: 512 });
  if (found.from === "main, broken") troubles.push({ what: "the boot sectors do not agree with their check sum", at: start, length: 512 });
  troubles.push(...cutOff(geometry.dataOffset + geometry.clusterCount * geometry.clusterBytes, source.size));
  const end = Math.min(source.size, geometry.start + geometry.length);
  const links = await readLinks(source, geometry);
  const bare = new ClusterMap(geometry, links, end);
  const read = async (clusters: readonly number[], bytes: number) => {
    const content = extentsSource(source, firstBytes(bare.extentsOf(clusters), bytes));
    return content.read(0, content.size);
  };
  const says = readRoot(await read(bare.chain(geometry.rootCluster, ROOT_CLUSTERS).clusters, ROOT_CLUSTERS * geometry.clusterBytes));
  const clustersOf = (table: { firstCluster: number; length: number }, most: number) => {
    const count = Math.ceil(Math.min(table.length, most) / geometry.clusterBytes);
    const chained = bare.chain(table.firstCluster, count).clusters;
    return chained.length === count ? chained : bare.run(table.firstCluster, count);
  };
  const own: number[] = [];
  let used: Uint8Array | undefined;
  const needed = Math.ceil(geometry.clusterCount / 8);
  if (says.bitmap && says.bitmap.length >= needed) {
    const clusters = clustersOf(says.bitmap, needed);
    own.push(...clusters);
    used = shifted(await read(clusters, needed), geometry.clusterCount);
  }
  if (!used)
    troubles.push({
      what: "the allocation bitmap is lost: which clusters are in use is told by the allocation table alone",
      at: geometry.dataOffset,
      length: 0,
    });
  if (says.upCase) {
    const clusters = clustersOf(says.upCase, MAX_UPCASE);
    own.push(...clusters);
    if (tableChecksum(await read(clusters, Math.min(says.upCase.length, MAX_UPCASE))) !== says.upCase.checksum)
      troubles.push({
        what: "the up-case table does not agree with its check sum",
        at: bare.offsetOf(says.upCase.firstCluster),
        length: geometry.clusterBytes,
      });
  }
  const map = used ? new ClusterMap(geometry, links, end, used) : bare;
  const free = map.freeBytes;
  return new ClusterVolume({
    source,
    map,
    format: exfatFolders,
    root: { cluster: geometry.rootCluster },
    own,
    troubles,
    info: {
      index,
      filesystem: "exFAT",
      start: geometry.start,
      length: geometry.length,
      label: says.label,
      encrypted: false,
      used: geometry.clusterCount * geometry.clusterBytes - free,
      free,
      clusterBytes: geometry.clusterBytes,
    },
  });
}

/** §7.1.5: the first bit of the bitmap is cluster 2; the map counts from 0. */
function shifted(bitmap: Uint8Array, count: number): Uint8Array {
  const used = new Uint8Array(Math.ceil((count + FIRST_CLUSTER) / 8));
  for (let index = 0; index < count; index++)
    if ((bitmap[index >> 3] & (1 << (index & 7))) !== 0) used[(index + FIRST_CLUSTER) >> 3] |= 1 << ((index + FIRST_CLUSTER) & 7);
  return used;
}
