import { expect, test } from "vitest";
import { aFind } from "../../test/finds.ts";
import { calledBy, meantBy } from "./attached.ts";
import { FindIndex } from "./find-index.ts";

const file = (path: string, own: Partial<ReturnType<typeof aFind>> & { medium?: number } = {}) => ({
  ...aFind({ state: "present", id: path, path, name: path.split("/").at(-1) ?? null, ...own }),
  medium: own.medium ?? 1,
});

test("of files of one name the one is meant whose path has most in common, from its end on", () => {
  const all = [
    file("/sdcard/DCIM/a.jpg"),
    file("/data/data/net.fox/files/media/3b1/a.jpg"),
    file("/data/data/net.fox/files/other/3b1/a.jpg"),
  ];
  expect(meantBy("media/3b1/A.JPG", 1, all)).toBe(all[1]);
  expect(meantBy("C:\\Users\\fox\\DCIM\\a.jpg", 1, all)).toBe(all[0]);
  expect(meantBy("content://net.fox.files/other/3b1/a%2ejpg", 1, all)).toBe(all[2]);
  expect(meantBy("media/3b1/b.jpg", 1, all)).toBeNull();
  expect(meantBy("", 1, all)).toBeNull();
  // A per cent sign that is none of an address ends nothing.
  expect(calledBy("content://net.fox/100%.jpg")).toBe("100%.jpg");
});

test("of its own medium before another's, whole before broken, there before erased; but what the path says comes first", () => {
  const [far, own, broken, erased] = [
    file("/x/media/a.jpg", { medium: 2 }),
    file("/x/media/a.jpg"),
    file("/y/media/a.jpg", { condition: "damaged" }),
    file("/z/media/a.jpg", { state: "erased" }),
  ];
  expect(meantBy("media/a.jpg", 1, [far, broken, erased, own])).toBe(own);
  expect(meantBy("media/a.jpg", 1, [far, broken, erased])).toBe(erased);
  expect(meantBy("media/a.jpg", 2, [own, far])).toBe(far);
  expect(meantBy("x/media/a.jpg", 1, [broken, far])).toBe(far);
});

test("the index knows finds by what they are called, those that came later too, and forgets those that went", () => {
  const index = new FindIndex();
  const put = (id: string, name: string | null) =>
    index.put(aFind({ id, name, path: name && `/x/${name}` }), { medium: 1, pack: 0, position: 0 });
  const first = put("e1", "Lantern.JPG");
  put("e2", null);
  expect(index.named("lantern.jpg")).toEqual([first]);
  const second = put("e3", "lantern.jpg");
  expect(index.named("LANTERN.jpg")).toEqual([first, second]);
  index.forget("1:e1");
  expect(index.named("lantern.jpg")).toEqual([second]);
  expect(index.named("")).toEqual([]);
  expect(index.named("none.jpg")).toEqual([]);
});

test("of 6,000 finds, asked for while they come: those of a name are all found, and in the order they came", () => {
  const index = new FindIndex();
  const rows = new Map<string, number[]>();
  for (let number = 0; number < 6000; number++) {
    const name = `p${number % 1700}.jpg`;
    const row = index.put(aFind({ id: `e${number}`, name, path: null }), { medium: 1, pack: 0, position: 0 });
    rows.set(name, [...(rows.get(name) ?? []), row]);
    if (number % 997 === 0) expect(index.named(name)).toEqual(rows.get(name));
  }
  for (const [name, own] of rows) expect(index.named(name)).toEqual(own);
  index.put(aFind({ id: "e0", name: "other.jpg", path: null }), { medium: 1, pack: 0, position: 0 });
  expect(index.named("p0.jpg")).toEqual(rows.get("p0.jpg")?.slice(1));
});
