import type { Extent } from "../../bytes/extents.ts";
import type { PatientSource } from "../../bytes/patient-source.ts";
import { isAllZero } from "../../bytes/zeros.ts";
import { ClusterMap, type ClusterSpace } from "../clusters/cluster-map.ts";
import { ClusterVolume, type LostFolder } from "../clusters/cluster-volume.ts";
import type { FolderFormat } from "../clusters/folder-format.ts";
import { exfatFolders } from "../exfat/directory.ts";
import { Type } from "../exfat/layout.ts";
import { SuperBlock as ExtSuper, SUPER_SIGNATURE } from "../ext4/layout.ts";
import { fatFolders } from "../fat/directory.ts";
import type { FileBatch, VolumeInfo } from "../volume.ts";
import { type FormerExt4, formerExt4Files } from "./former-ext4.ts";
import { formerLayout, type Witness } from "./layout-votes.ts";

const SECTOR = 512;
/** Places and entries that are remembered. */
const MAX_PLACES = 10_000;
const MAX_ENTRIES = 4000;
/** Pairs of an entry and a beginning of its size: a size that more contents have tells nothing. */
const MAX_ALIKE = 4;

/** Where a content begins that was found, and its bytes. */
export interface Begun {
  readonly at: number;
  readonly size: number;
}

/** A stretch of a medium in which a volume may have been formatted over: a volume's, or one that no volume explains. */
export interface Region {
  readonly source: PatientSource;
  readonly start: number;
  readonly length: number;
  /** Free now. */
  readonly free: () => Iterable<Extent>;
  /** The volume that lies there now, and how it lays out its clusters. */
  readonly now: { readonly info: VolumeInfo; readonly space: Pick<ClusterSpace, "dataOffset" | "clusterBytes"> | null } | null;
}

/** Where contents may begin: at `offset`, and every `unit` bytes from there on. */
export interface Grid {
  readonly offset: number;
  readonly unit: number;
}

/** What is left of the folders of one former file system. */
class FormerFolders {
  readonly format: FolderFormat;
  readonly name: string;
  /** Blocks that begin with an entry: where they lie, and what they say of themselves. */
  readonly places: { at: number; dots: { self: number; parent: number } | null }[] = [];
  /** First cluster and size of files, as entries tell. */
  readonly #entries = new Map<string, { readonly cluster: number; readonly size: number }>();

  /** The cheap first look at a sector. */
  readonly mayBe: (bytes: Uint8Array, at: number) => boolean;

  constructor(name: string, format: FolderFormat, mayBe: (bytes: Uint8Array, at: number) => boolean) {
    this.name = name;
    this.format = format;
    this.mayBe = mayBe;
  }

  /** @returns whether it is taken note of */
  see(piece: Uint8Array, at: number, own: Region["now"]): boolean {
    if (this.places.length >= MAX_PLACES) return false;
    const dots = this.format.readDots(piece);
    if (this.format.hasDots) {
      if (!dots || (own?.space && at === own.space.dataOffset + (dots.self - 2) * own.space.clusterBytes)) return false;
      // The old clusters may be as small as a sector: no more than that is known to be one folder's.
      const rest = piece.subarray(2 * this.format.entryBytes, SECTOR);
      if (!this.format.looksLikeFolderBlock(rest) && !isAllZero(rest)) return false;
    }
    const entries = this.format.readEntries(piece);
    if (!this.format.hasDots && entries.length === 0) return false;
    this.places.push({ at, dots });
    for (const { folder, firstCluster, size } of entries)
      if (!folder && size > 0 && firstCluster >= 2 && this.#entries.size < MAX_ENTRIES)
        this.#entries.set(`${firstCluster}/${size}`, { cluster: firstCluster, size });
    return true;
  }

  /** Entries whose size is that of a content that was found: it may begin at their first cluster. */
  #alike(begun: Iterable<Begun>): Witness[] {
    const bySize = new Map<number, number[]>();
    for (const { at, size } of begun) {
      const places = bySize.get(size);
      if (places) places.push(at);
      else bySize.set(size, [at]);
    }
    return [...this.#entries.values()].flatMap(({ cluster, size }) => {
      const places = bySize.get(size) ?? [];
      return places.length > MAX_ALIKE ? [] : places.map((at) => ({ at, cluster }));
    });
  }

  layout({ start, length, now }: Region, begun: Iterable<Begun>): ClusterSpace | null {
    const sure = this.places.flatMap(({ at, dots }) => (dots ? [{ at, cluster: dots.self }] : []));
    return formerLayout(sure, this.#alike(begun), { from: start, to: start + length, not: now?.space ?? null });
  }

  /** The folders by their clusters in a layout, each once. */
  foldersIn(map: ClusterMap): LostFolder[] {
    const folders = new Map<number, LostFolder>();
    for (const { at, dots } of this.places) {
      const cluster = dots?.self ?? map.clusterAt(at);
      if (map.isOnVolume(cluster)) folders.set(cluster, { cluster, parent: dots?.parent ?? null });
    }
    return [...folders.values()];
  }
}

const beginsWithDots = (bytes: Uint8Array, at: number): boolean =>
  bytes[at] === 0x2e && bytes[at + 1] === 0x20 && bytes[at + 32] === 0x2e && bytes[at + 33] === 0x2e;

/** A folder begins with a file's entry; the root with the volume's label, its bitmap or its up-case table (exFAT §7.1–7.3). */
const beginsExfatList = (bytes: Uint8Array, at: number): boolean =>
  exfatFolders.mayBeFolderBlock(bytes, at) || (ROOT_FIRST.has(bytes[at]) && ROOT_FIRST.has(bytes[at + 32]));
const ROOT_FIRST = new Set<number>([Type.bitmap, Type.upCase, Type.label, Type.label & 0x7f]);

/** Bytes one of which stands at a place of every sector that may tell of a former volume. */
export const FORMER_MARKS = [
  { at: 0, bytes: [0x2e, Type.file, Type.file & 0x7f, ...ROOT_FIRST] },
  { at: ExtSuper.s_magic.at, bytes: [SUPER_SIGNATURE & 0xff] },
];

/** The cheap first look: may a sector tell of a former volume? */
export const mayTellOfFormer = (bytes: Uint8Array, at: number): boolean =>
  beginsWithDots(bytes, at) ||
  beginsExfatList(bytes, at) ||
  (bytes[at + ExtSuper.s_magic.at] === (SUPER_SIGNATURE & 0xff) && bytes[at + ExtSuper.s_magic.at + 1] === SUPER_SIGNATURE >> 8);

/**
 * Volumes that were formatted over: the present one knows nothing of them, but blocks of their folders lie in its free space, and say
 * together how the old one was laid out. Then its files are listed as erased ones, with names and dates.
 */
export class FormerVolumes {
  readonly #region: Region;
  readonly #kinds = [new FormerFolders("FAT", fatFolders, beginsWithDots), new FormerFolders("exFAT", exfatFolders, beginsExfatList)];
  readonly #exts = new Map<string, FormerExt4>();

  constructor(region: Region) {
    this.#region = region;
  }

  /** Takes note of what may tell of a former volume, from a sector on: up to 4 KiB of it. @returns whether it did */
  see(piece: Uint8Array, at: number): boolean {
    if (ExtSuper.s_magic(piece, 0) === SUPER_SIGNATURE) return this.#superBlock(piece, at);
    return this.#kinds.some((kind) => kind.mayBe(piece, 0) && kind.see(piece, at, this.#region.now));
  }

  /** A copy of a superblock (kernel documentation, "ext4 Data Structures and Algorithms", §superblock): its group says where the volume began. */
  #superBlock(sector: Uint8Array, at: number): boolean {
    const logBlock = ExtSuper.s_log_block_size(sector, 0);
    const group = ExtSuper.s_block_group_nr(sector, 0);
    const unit = 1024 << logBlock;
    if (logBlock > 6 || group === 0 || ExtSuper.s_blocks_per_group(sector, 0) !== unit * 8) return false;
    const offset = at - (ExtSuper.s_first_data_block(sector, 0) + group * unit * 8) * unit;
    if (offset < this.#region.start || offset >= this.#region.start + this.#region.length) return false;
    if (!this.#exts.has(`${offset}/${unit}`)) this.#exts.set(`${offset}/${unit}`, { offset, unit, copy: sector.slice(0, ExtSuper.size) });
    return true;
  }

  /** Where contents began before: asked for when all free space was seen. `begun`: what was found by its content. */
  grids(begun: Iterable<Begun>): Grid[] {
    const found = [...begun];
    const layouts = this.#kinds.map((kind) => kind.layout(this.#region, found)).filter((space) => space !== null);
    return [
      ...layouts.map(({ dataOffset, clusterBytes }) => ({ offset: dataOffset, unit: clusterBytes })),
      ...Array.from(this.#exts.values(), ({ offset, unit }) => ({ offset, unit })),
    ];
  }

  /** The files of former volumes, as their folders tell. */
  async *files(begun: Iterable<Begun>): AsyncGenerator<FileBatch> {
    const found = [...begun];
    for (const kind of this.#kinds) {
      const space = kind.layout(this.#region, found);
      if (!space || space.clusterCount < 1 || space.clusterCount > 2 ** 28) continue;
      const { source, start, length, now } = this.#region;
      const end = Math.min(source.size, start + length);
      const used = new Uint8Array(Math.ceil((space.clusterCount + 2) / 8));
      const map = new ClusterMap(space, new Uint32Array(0), end, used);
      // What is in use now is in use in the old numbers too.
      for (const cluster of usedIn(map, this.#region)) used[cluster >> 3] |= 1 << (cluster & 7);
      const info = now?.info ?? NOTHING_NOW;
      const volume = new ClusterVolume({ source, info, map, format: kind.format, root: { cluster: 0 }, own: [], troubles: [] });
      const what = `an older ${kind.name} volume lay here, with clusters of ${space.clusterBytes} bytes: ${kind.places.length} pieces of its folders are left`;
      yield { files: [], troubles: [{ what, at: space.dataOffset, length: 0 }] };
      yield* volume.exhume(kind.foldersIn(map));
    }
    const { source, start, length, free } = this.#region;
    for (const ext of this.#exts.values()) yield* formerExt4Files(ext, source, start + length - ext.offset, free());
  }
}

/** Where no volume lies now there is nothing to say of one. */
const NOTHING_NOW: VolumeInfo = {
  index: 0,
  filesystem: "none",
  start: 0,
  length: 0,
  label: null,
  encrypted: false,
  used: 0,
  free: 0,
  clusterBytes: SECTOR,
};

/** Clusters of a former numbering that overlap space in use now. */
function* usedIn(old: ClusterMap, { start, length, free }: Region): Generator<number> {
  let from = Math.min(old.space.dataOffset, start);
  const between = function* (to: number) {
    for (let cluster = Math.max(2, old.clusterAt(from)); cluster <= old.lastCluster && old.offsetOf(cluster) < to; cluster++)
      if (old.offsetOf(cluster) + old.space.clusterBytes > from) yield cluster;
  };
  for (const run of free()) {
    yield* between(run.offset);
    from = run.offset + run.length;
  }
  yield* between(start + length);
}
