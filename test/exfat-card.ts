import { writeFileSync } from "node:fs";
import type { Workshop } from "./workshop.ts";

/** Bytes of an exFAT volume that mkfs.exfat made, into which files are put as §6 and §7 of the specification say. */
export class ExfatCard {
  readonly #shop: Workshop;
  readonly image: string;
  readonly bytes: Buffer;
  readonly #fat: number;
  readonly #heap: number;
  readonly clusterBytes: number;
  readonly #root: number;
  readonly #bitmap: number;

  constructor(shop: Workshop, { mebibytes = 8, clusterBytes = 4096 } = {}) {
    this.#shop = shop;
    this.image = shop.blank("exfat.img", mebibytes);
    shop.run("mkfs.exfat", "-L", "TEST CARD", "-c", String(clusterBytes), this.image);
    this.bytes = Buffer.from(shop.bytes(this.image));
    const sector = 1 << this.bytes[108];
    this.#fat = this.bytes.readUInt32LE(80) * sector;
    this.#heap = this.bytes.readUInt32LE(88) * sector;
    this.clusterBytes = sector << this.bytes[109];
    this.#root = this.bytes.readUInt32LE(96);
    const entry = this.#entryIn(this.#root, (type) => type === 0x81);
    this.#bitmap = this.offsetOf(this.bytes.readUInt32LE(entry + 20));
  }

  offsetOf = (cluster: number): number => this.#heap + (cluster - 2) * this.clusterBytes;

  #entryIn(folder: number, is: (type: number) => boolean): number {
    for (let at = this.offsetOf(folder); ; at += 32) if (is(this.bytes[at])) return at;
  }

  #mark(cluster: number, used: boolean): void {
    const index = cluster - 2;
    const at = this.#bitmap + (index >> 3);
    this.bytes[at] = used ? this.bytes[at] | (1 << (index & 7)) : this.bytes[at] & ~(1 << (index & 7));
  }

  /** Makes a folder of one cluster in the root. @returns that cluster */
  makeFolder(name: string, cluster: number): number {
    this.put(name, new Uint8Array(this.clusterBytes), [cluster], this.#root, 0x10);
    return cluster;
  }

  /** Puts a file into the root or a folder, over these clusters: in one run without a chain where they follow each other. */
  put(
    name: string,
    content: Uint8Array,
    clusters: readonly number[],
    folder = this.#root,
    attributes = 0x20,
  ): { at: number; entries: number } {
    const run = clusters.every((cluster, index) => index === 0 || cluster === clusters[index - 1] + 1);
    clusters.forEach((cluster, index) => {
      this.bytes.set(content.subarray(index * this.clusterBytes, (index + 1) * this.clusterBytes), this.offsetOf(cluster));
      this.#mark(cluster, true);
      if (!run) this.bytes.writeUInt32LE(clusters[index + 1] ?? 0xffff_ffff, this.#fat + cluster * 4);
    });
    const parts = Math.ceil(name.length / 15);
    const set = Buffer.alloc((2 + parts) * 32);
    set[0] = 0x85;
    set[1] = 1 + parts;
    set.writeUInt16LE(attributes, 4);
    // 3 May 2026, 18:20:40.50 at two hours east of UTC.
    const stamp = ((2026 - 1980) * 2 ** 25 + (5 << 21) + (3 << 16) + (18 << 11) + (20 << 5) + 20) >>> 0;
    for (const at of [8, 12, 16]) set.writeUInt32LE(stamp, at);
    set[21] = 50;
    for (const at of [22, 23, 24]) set[at] = 0x80 | 8;
    set[32] = 0xc0;
    set[33] = run ? 0x3 : 0x1;
    set[35] = name.length;
    set.writeUInt16LE(hash(name.toUpperCase()), 36);
    set.writeUIntLE(content.length, 40, 6);
    set.writeUInt32LE(clusters[0], 52);
    set.writeUIntLE(content.length, 56, 6);
    for (let part = 0; part < parts; part++) {
      const at = (2 + part) * 32;
      set[at] = 0xc1;
      for (let unit = 0; unit < 15 && part * 15 + unit < name.length; unit++)
        set.writeUInt16LE(name.charCodeAt(part * 15 + unit), at + 2 + unit * 2);
    }
    let sum = 0;
    for (let index = 0; index < set.length; index++)
      if (index !== 2 && index !== 3) sum = ((((sum & 1) << 15) | (sum >> 1)) + set[index]) & 0xffff;
    set.writeUInt16LE(sum, 2);
    const at = this.#entryIn(folder, (type) => type === 0);
    this.bytes.set(set, at);
    return { at, entries: set.length / 32 };
  }

  /** Erases as drivers do: the in-use bits of the set go off, and the bitmap's; chains stay. */
  erase({ at, entries }: { at: number; entries: number }, clusters: readonly number[]): void {
    for (let entry = 0; entry < entries; entry++) this.bytes[at + entry * 32] &= 0x7f;
    this.free(clusters);
  }

  /** These clusters are nobody's any more. */
  free(clusters: readonly number[]): void {
    for (const cluster of clusters) this.#mark(cluster, false);
  }

  /** What fsck.exfat says of it, changing nothing. */
  fsck(): string {
    writeFileSync(this.image, this.bytes);
    return this.#shop.run("fsck.exfat", "-n", this.image);
  }
}

/** §7.6.4 NameHash. */
function hash(upper: string): number {
  let sum = 0;
  for (const byte of Buffer.from(upper, "utf16le")) sum = ((((sum & 1) << 15) | (sum >> 1)) + byte) & 0xffff;
  return sum;
}
