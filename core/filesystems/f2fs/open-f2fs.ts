import type { PatientSource } from "../../bytes/patient-source.ts";
import { cutOff, type Volume } from "../volume.ts";
import { Disk } from "./disk.ts";
import { F2fsVolume } from "./f2fs-volume.ts";
import { findGeometry, type Pack, readPacks } from "./geometry.ts";
import { BLOCK_BYTES } from "./layout.ts";
import { readFooter } from "./node.ts";
import { Tables } from "./tables.ts";

/** Synced nodes that mounting would take over, before we stop believing. */
const MAX_ROLLED = 1 << 20;

/** Opens an F2FS volume that begins at `start` of the source. Null: there is none, or none of its checkpoints is whole. */
export async function openF2fs(source: PatientSource, start: number, length: number, index: number): Promise<Volume | null> {
  const found = await findGeometry(source, start, length);
  if (!found) return null;
  const { geometry } = found;
  const { packs, troubles } = await readPacks(source, geometry);
  const [pack] = packs;
  if (!pack) return null;
  if (found.fromCopy) troubles.push({ what: "the superblock is lost; its copy is used", at: start + 1024, length: 1024 });
  troubles.push(...cutOff(start + geometry.blockCount * BLOCK_BYTES, source.size));
  const disk = new Disk(source, geometry, await Tables.read(source, geometry, pack));
  const rolled = await rollForward(disk, pack);
  return new F2fsVolume(disk, pack, index, length, rolled, troubles);
}

/** "Roll-forward recovery": the chain of nodes written after the checkpoint, from the next free block of the warm node log on. */
async function rollForward(disk: Disk, pack: Pack): Promise<number> {
  const { mainAt, blocksPerSegment } = disk.geometry;
  const [, warm] = pack.nodeLogs;
  const chain: { nid: number; ino: number; address: number }[] = [];
  const synced = new Set<number>();
  const seen = new Set<number>();
  let address = mainAt + warm.segment * blocksPerSegment + warm.next;
  while (chain.length < MAX_ROLLED && !seen.has(address)) {
    seen.add(address);
    const block = await disk.block(address);
    const footer = block && readFooter(block);
    if (!footer || footer.version !== pack.low || footer.nid === 0) break;
    chain.push({ nid: footer.nid, ino: footer.ino, address });
    if (footer.synced) synced.add(footer.ino);
    address = footer.next;
  }
  const taken = chain.filter(({ ino }) => synced.has(ino));
  for (const { nid, address: at } of taken) disk.tables.override(nid, at);
  return taken.length;
}
