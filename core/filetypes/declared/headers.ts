import { u16be, u32, u32be } from "../../bytes/layout.ts";
import { ascii, type DeclaredType, some, within } from "./declared.ts";

const le32 = u32(0);
const be32 = u32be(0);
const be16 = u16be(0);

/** RIFF ("Multimedia Programming Interface and Data Specifications 1.0", 1991): a size behind the tag, then what it holds. */
export const riff: DeclaredType = {
  firstByte: 0x52,
  beginsBytes: 12,
  begins: (bytes, at) => ascii(bytes, at, "RIFF") && ["WAVE", "AVI ", "WEBP"].some((form) => ascii(bytes, at + 8, form)),
  async declare(content) {
    const head = await some(content, 0, 12);
    const [format, kind] = ascii(head, 8, "WAVE")
      ? (["wav", "audio"] as const)
      : ascii(head, 8, "AVI ")
        ? (["avi", "video"] as const)
        : (["webp", "photo"] as const);
    const length = le32(head, 4) + 8;
    return length < 20 ? null : { format, kind, ...within(content, length + (length & 1)) };
  },
};

/** Windows bitmap: file size at byte 2, where pixels begin at byte 10, size of the header at byte 14 (common practice, no source). */
export const bmp: DeclaredType = {
  firstByte: 0x42,
  beginsBytes: 18,
  begins: (bytes, at) => ascii(bytes, at, "BM") && le32(bytes, at + 6) === 0 && [12, 40, 52, 56, 108, 124].includes(le32(bytes, at + 14)),
  async declare(content) {
    const head = await some(content, 0, 18);
    const length = le32(head, 2);
    return le32(head, 10) >= length || length < 26 ? null : { format: "bmp", kind: "photo", ...within(content, length) };
  },
};

/** "Database File Format" of SQLite, §1.3: page size at byte 16, pages at byte 28. */
export const sqlite: DeclaredType = {
  firstByte: 0x53,
  beginsBytes: 32,
  begins: (bytes, at) => ascii(bytes, at, "SQLite format 3\0"),
  async declare(content) {
    const head = await some(content, 0, 32);
    const stored = be16(head, 16);
    const page = stored === 1 ? 65_536 : stored;
    const length = page * be32(head, 28);
    if (page < 512 || (page & (page - 1)) !== 0 || length === 0) return null;
    return { format: "sqlite", kind: "database", ...within(content, length) };
  },
};

/** TIFF 6.0 §2: directories of entries; the furthest strip, value or directory is the end. */
export const tiff: DeclaredType = {
  firstByte: null,
  beginsBytes: 8,
  begins: (bytes, at) => ascii(bytes, at, "II*\0") || ascii(bytes, at, "MM\0*"),
  async declare(content) {
    const little = (await some(content, 0, 1))[0] === 0x49;
    const number = (bytes: Uint8Array, at: number, size: number): number => {
      let value = 0;
      for (let index = 0; index < size; index++) value = value * 256 + bytes[little ? at + size - 1 - index : at + index];
      return value;
    };
    const SIZES = [0, 1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8];
    let end = 8;
    let directory = number(await some(content, 4, 4), 0, 4);
    for (let directories = 0; directory !== 0 && directories < 32; directories++) {
      if (directory + 2 > content.size) return { format: "tiff", kind: "photo", length: Math.min(end, content.size), ends: false };
      const count = number(await some(content, directory, 2), 0, 2);
      const entries = await some(content, directory + 2, count * 12 + 4);
      if (count === 0 || count > 512 || entries.length < count * 12 + 4) return null;
      end = Math.max(end, directory + 2 + count * 12 + 4);
      const lists: Record<number, number[]> = {};
      for (let entry = 0; entry < count; entry++) {
        const at = entry * 12;
        const [tag, type, values] = [number(entries, at, 2), number(entries, at + 2, 2), number(entries, at + 4, 4)];
        const bytes = (SIZES[type] ?? 1) * values;
        const place = bytes > 4 ? number(entries, at + 8, 4) : 0;
        end = Math.max(end, place + (bytes > 4 ? bytes : 0));
        // Strips and tiles: where they begin, and how many bytes each has.
        if (![273, 279, 324, 325].includes(tag) || values > 65_536 || (type !== 3 && type !== 4)) continue;
        const stored = bytes > 4 ? await some(content, place, bytes) : entries.subarray(at + 8, at + 12);
        lists[tag] = Array.from({ length: values }, (_, index) =>
          (index + 1) * SIZES[type] <= stored.length ? number(stored, index * SIZES[type], SIZES[type]) : 0,
        );
      }
      for (const [places, sizes] of [
        [273, 279],
        [324, 325],
      ])
        lists[places]?.forEach((place, index) => {
          end = Math.max(end, place + (lists[sizes]?.[index] ?? 0));
        });
      directory = number(entries, count * 12, 4);
    }
    return end <= 8 ? null : { format: "tiff", kind: "photo", ...within(content, end) };
  },
};
