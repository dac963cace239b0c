import { expect, test } from "vitest";
import { FatCard } from "../../test/fat-card.ts";
import { databaseOf } from "../../test/no-messengers.ts";
import { jpegOf } from "../../test/pictures.ts";
import { anEntry } from "../../test/records.ts";
import { scanned } from "../../test/scanning.ts";
import { memorySource } from "../bytes/memory-source.ts";
import type { Find } from "../finds/find.ts";
import { LentNames } from "./lent-names.ts";

const MOMENT = Date.UTC(2026, 4, 3, 18, 20, 11);
const find = (id: string, more: Partial<Find> = {}): Find => ({
  id,
  kind: "photo",
  format: "jpeg",
  state: "erased",
  condition: "whole",
  because: "",
  checked: true,
  name: null,
  path: null,
  size: 50_000,
  modified: null,
  taken: null,
  lastDay: null,
  width: null,
  height: null,
  seconds: null,
  shown: null,
  camera: null,
  place: null,
  sha256: null,
  extents: [{ offset: 4096, length: 50_000 }],
  volume: 0,
  inside: null,
  evidence: [],
  ...more,
});
const row = (path: string, taken: number | null = null, size = 50_000) =>
  anEntry(path, "media", {
    path,
    size,
    ...(taken !== null && { taken: new Date(taken).toISOString() }),
    modified: "2026-05-03T15:21:00.000Z",
  });
function lent(finds: readonly Find[], rows: readonly ReturnType<typeof row>[]): Record<string, string> {
  const names = new LentNames([]);
  for (const one of finds) names.note(one);
  names.see(rows);
  return Object.fromEntries(names.patches().map(({ id, entry }) => [id, entry?.path ?? ""]));
}

test("the only file of its size lends its name; two of them lend none, unless the moment tells them apart", () => {
  expect(lent([find("b1")], [row("/s/DCIM/a.jpg")])).toEqual({ b1: "/s/DCIM/a.jpg" });
  expect(lent([find("b1")], [row("/s/DCIM/a.jpg"), row("/s/DCIM/a.jpg")])).toEqual({ b1: "/s/DCIM/a.jpg" });
  expect(lent([find("b1")], [row("/s/DCIM/a.jpg"), row("/s/DCIM/b.jpg")])).toEqual({});
  expect(lent([find("b1"), find("b2")], [row("/s/DCIM/a.jpg")])).toEqual({});
  // Three hours east of Greenwich: the camera's clock is ahead of the list's.
  const east = MOMENT + 3 * 3_600_000;
  expect(lent([find("b1", { taken: east })], [row("/s/DCIM/a.jpg", MOMENT), row("/s/DCIM/b.jpg", MOMENT + 60_000)])).toEqual({
    b1: "/s/DCIM/a.jpg",
  });
  expect(
    lent([find("b1", { taken: east }), find("b2", { taken: east + 60_000 })], [row("/s/b.jpg", MOMENT + 60_000), row("/s/a.jpg", MOMENT)]),
  ).toEqual({ b1: "/s/a.jpg", b2: "/s/b.jpg" });
});

test("nothing is lent to what has a name, lies in something, is damaged, small, of another format or of another moment", () => {
  const rows = [row("/s/DCIM/a.jpg", MOMENT)];
  for (const more of [
    { name: "x.jpg", path: "/DCIM/x.jpg" },
    { inside: "b0" },
    { condition: "damaged" },
    { state: "present" },
    { format: "png" },
    { taken: MOMENT + 61_000 },
    { taken: MOMENT + 20 * 3_600_000 },
  ] as const)
    expect(lent([find("b1", more)], rows), JSON.stringify(more)).toEqual({});
  expect(lent([find("b1", { size: 900 })], [row("/s/a.jpg", null, 900)])).toEqual({});
  expect(lent([find("b1", { size: 50_001 })], rows)).toEqual({});
});

test("a picture that lies where no list names it gets the name, folder and day that the phone's media list has for it", async () => {
  const picture = jpegOf(640, 400, 5);
  const card = new FatCard({ mebibytes: 40 }).makeFolder("/data");
  const other = jpegOf(640, 401, 6);
  const names: readonly (readonly [string, number])[] = [
    ["SISK1207.jpg", picture.length],
    ["here.jpg", other.length],
  ];
  const list = databaseOf([
    {
      sql: "files(_id INTEGER PRIMARY KEY AUTOINCREMENT,_data TEXT,_display_name TEXT,_size INTEGER,datetaken INTEGER,date_modified INTEGER,mime_type TEXT,format INTEGER)",
      rows: 4,
      row: (id) => {
        const [name, size] = names[id - 1] ?? [`more${id}.jpg`, 9_000_000 + id];
        return [id, `/storage/emulated/0/DCIM/Camera/${name}`, name, size, 1_777_800_000_000, 1_777_800_001, "image/jpeg", 0];
      },
    },
  ]);
  card.put("/data/external.db", list).put("/data/here.jpg", other);
  const bytes = card.bytes();
  card.remove();
  bytes.set(picture, bytes.length - 8 * 1024 * 1024);
  const { finds } = await scanned(memorySource(bytes, "card"));
  const found = [...finds.values()].filter(({ state }) => state === "erased");
  expect(found).toEqual([
    expect.objectContaining({
      name: "SISK1207.jpg",
      path: "/storage/emulated/0/DCIM/Camera/SISK1207.jpg",
      modified: 1_777_800_001_000,
      size: picture.length,
      condition: "whole",
    }),
  ]);
  expect(found[0].evidence.map(({ what }) => what).join()).toContain("the media list has a file of exactly its bytes");
});
