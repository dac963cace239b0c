import fc from "fast-check";
import { expect, test } from "vitest";
import { aFind } from "../../test/finds.ts";
import { BANDED } from "./bands.ts";
import { binnedName } from "./bins.ts";
import { applyPatch, CONDITIONS, type Find, KINDS, STATES, timeOf } from "./find.ts";
import { FindIndex } from "./find-index.ts";
import { EVERYTHING, type Query } from "./find-query.ts";
import { folderKey } from "./folder-table.ts";

const DAY = 86_400_000;
const KEPT = { medium: 0, pack: 0, position: 0 };
const finds: fc.Arbitrary<Find[]> = fc
  .array(
    fc.record({
      kind: fc.constantFrom(...KINDS.slice(0, 3)),
      state: fc.constantFrom(...STATES),
      condition: fc.constantFrom(...CONDITIONS),
      name: fc.constantFrom("Lantern.jpg", "MOONHOOK.png", "crow 9.jpg", null),
      path: fc.constantFrom("/DCIM/Tour/Lantern.jpg", "/Pictures/crow 9.jpg", null),
      taken: fc.option(fc.integer({ min: 20_500, max: 20_510 }).map((day) => day * DAY + 5_000_000)),
      modified: fc.option(fc.integer({ min: 20_500, max: 20_510 }).map((day) => day * DAY)),
      size: fc.oneof(fc.nat(50), fc.constantFrom(99_999, 100_000, 5_000_000)),
      format: fc.constantFrom("jpeg", "png", "mp4"),
      seconds: fc.constantFrom(null, 0.5, 10, 59.9, 5000),
      width: fc.constantFrom(null, 500, 4000),
      camera: fc.constantFrom(null, "QX 3", "ZU 9"),
      extents: fc.nat(30).map((start) => [{ offset: start * 100, length: 10 }]),
    }),
    { maxLength: 40, size: "max" },
  )
  .map((list) => list.map((own, index) => aFind({ ...own, id: `f${index}` })));
/** Most questions ask little: where all filters are set nothing passes, and nothing is tried. */
const seldom = <T, N>(one: fc.Arbitrary<T>, nothing: N) =>
  fc.oneof({ weight: 3, arbitrary: fc.constant(nothing) }, { weight: 2, arbitrary: one });
const some = <T>(list: readonly T[]) => seldom(fc.subarray([...list]), [] as T[]);
const queries: fc.Arbitrary<Query> = fc.record({
  media: fc.constantFrom([], [0], [0, 1]),
  kinds: some(KINDS.slice(0, 3)),
  states: some(STATES),
  conditions: some(CONDITIONS),
  days: seldom(
    fc.tuple(fc.integer({ min: 20_500, max: 20_510 }), fc.nat(5)).map(([from, more]) => ({ from, to: from + more })),
    null,
  ),
  words: seldom(fc.constantFrom("lantern", "CROW pictures", "tour lan", "tour/lan", "m/T"), ""),
  first: fc.constant(""),
  place: seldom(
    fc.nat(2000).map((from) => ({ medium: 0, from, to: from + 900 })),
    null,
  ),
  folder: seldom(fc.constantFrom("0.0|", "0.0|/DCIM/", "0.0|/DCIM/Tour/", "0.0|?", "0.1|"), null),
  formats: some(["jpeg", "png", "mp4"]),
  bands: fc.record({ size: some([0, 1]), length: some([0, 1, 4]), pixels: some([0, 2, 3]) }),
  sort: fc.constantFrom("newest", "oldest", "name", "largest", "longest", "place"),
  group: fc.constantFrom("day", "folder", "camera", "kind", "nothing"),
});

/** The band of a value, said the plain way. */
const bandIn = (edges: readonly number[], value: number | null): number | null =>
  value === null ? null : edges.filter((edge) => value >= edge).length;
const bandsOf = (find: Find) => ({
  size: bandIn([100_000, 1_000_000, 10_000_000, 100_000_000], find.size),
  length: bandIn([10, 60, 600, 3600], find.seconds),
  pixels: bandIn([300_000, 2_000_000, 8_000_000, 20_000_000], find.width && find.height ? find.width * find.height : null),
});
const isOneOf = <T>(chosen: readonly T[], one: T | null) => chosen.length === 0 || (one !== null && chosen.includes(one));

/** The same question, asked the plain way. */
const passes = (find: Find, query: Query): boolean => {
  const time = timeOf(find);
  const day = time === null ? null : Math.floor(time / DAY);
  const text = `${find.path ?? ""} ${find.name ?? ""} ${find.camera ?? ""}`.toLowerCase();
  return (
    (query.kinds.length === 0 || query.kinds.includes(find.kind)) &&
    (query.states.length === 0 || query.states.includes(find.state)) &&
    (query.conditions.length === 0 || query.conditions.includes(find.condition)) &&
    isOneOf(query.formats, find.format) &&
    BANDED.every((fact) => isOneOf(query.bands[fact], bandsOf(find)[fact])) &&
    (!query.days || (day !== null && day >= query.days.from && day <= query.days.to)) &&
    query.words
      .toLowerCase()
      .split(" ")
      .every((word) => text.includes(word)) &&
    (query.folder === null || (query.folder === "0.0|?" ? find.path === null : `0.0|${find.path ?? ""}`.startsWith(query.folder))) &&
    (!query.place || (find.extents[0].offset >= query.place.from && find.extents[0].offset < query.place.to))
  );
};

const groupOf = (find: Find, { group }: Query): number | string | null => {
  const time = timeOf(find);
  if (group === "day") return time === null ? null : Math.floor(time / DAY);
  if (group === "folder") return folderKey(0, find);
  return group === "camera" ? find.camera : group === "kind" ? find.kind : "";
};

test("words of a path go over the ends of its folders; a path's last part counts where the find has another name, or none", () => {
  const index = new FindIndex();
  const paths = [
    ["/DCIM/Tour/Lantern.jpg", "Lantern.jpg"],
    ["/DCIM/Tour/Lantern.jpg", "?antern.jpg"],
    ["/DCIM/Tour/Lantern.jpg", null],
    [null, "Tour"],
  ] as const;
  for (const [number, [path, name]] of paths.entries()) index.put(aFind({ id: `f${number}`, path, name, camera: null }), KEPT);
  const found = (words: string) => [...index.ask({ ...EVERYTHING, words }).rows].sort((a, b) => a - b);
  expect(found("tour/lan")).toEqual([0, 1, 2]);
  expect(found("m/tour/l")).toEqual([0, 1, 2]);
  expect(found("?antern")).toEqual([1]);
  expect(found("/lantern.jpg")).toEqual([0, 1, 2]);
  expect(found("TOUR")).toEqual([0, 1, 2, 3]);
  expect(found("tour/")).toEqual([0, 1, 2]);
});

test("what is of some kinds and days and holds some words is the same one by one as in the answer", () => {
  fc.assert(
    fc.property(finds, queries, (list, { kinds, days, words }) => {
      const index = new FindIndex();
      for (const find of list) index.put(find, KEPT);
      const { rows } = index.ask({ ...EVERYTHING, kinds, days, words });
      const holds = index.holding({ kinds, days, words });
      expect(list.map((_, row) => row).filter(holds)).toEqual([...rows].sort((a, b) => a - b));
    }),
    { numRuns: 200 },
  );
});

test("answers, counts of facets and days are those of a plain search", () => {
  fc.assert(
    fc.property(finds, queries, (list, query) => {
      const index = new FindIndex();
      for (const find of list) index.put(find, KEPT);
      // Some go, and some of these come again; one that never was goes as well.
      for (const { id } of [...list.slice(0, 5), ...list.slice(0, 2)]) index.forget(`0:${id}`);
      index.forget("0:nothing");
      for (const find of list.slice(0, 5)) index.put(find, KEPT);
      const answer = index.ask(query);
      const expected = list.filter((find) => passes(find, query));
      expect(index.count(query)).toBe(expected.length);
      expect([...answer.rows].map((row) => index.keyOf(row).slice(2)).sort()).toEqual(expected.map(({ id }) => id).sort());
      expect(answer.bytes).toBe(expected.reduce((sum, { size }) => sum + size, 0));
      for (const kind of KINDS)
        expect(answer.kinds[kind]).toBe(list.filter((find) => find.kind === kind && passes(find, { ...query, kinds: [] })).length);
      for (const state of STATES)
        expect(answer.states[state]).toBe(list.filter((find) => find.state === state && passes(find, { ...query, states: [] })).length);
      for (const condition of CONDITIONS)
        expect(answer.conditions[condition]).toBe(
          list.filter((find) => find.condition === condition && passes(find, { ...query, conditions: [] })).length,
        );
      for (const format of ["jpeg", "png", "mp4"])
        expect(answer.formats.get(format) ?? 0).toBe(
          list.filter((find) => find.format === format && passes(find, { ...query, formats: [] })).length,
        );
      for (const fact of BANDED)
        for (let band = 0; band < 5; band++)
          expect(answer.bands[fact][band]).toBe(
            list.filter((find) => bandsOf(find)[fact] === band && passes(find, { ...query, bands: { ...query.bands, [fact]: [] } })).length,
          );
      expect(answer.all).toBe(list.length);
      const dated = list.filter((find) => timeOf(find) !== null && passes(find, { ...query, days: null }));
      expect(answer.days.reduce((sum, { erased, others }) => sum + erased + others, 0)).toBe(dated.length);
      const sorted = [...answer.rows].map((row) => list[row]);
      for (let at = 1; at < sorted.length; at++) {
        const [a, b] = [sorted[at - 1], sorted[at]];
        // Within a group; groups themselves stand in an order of their own.
        if (groupOf(a, query) !== groupOf(b, query)) continue;
        if (query.sort === "longest") expect(a.seconds ?? -1).toBeGreaterThanOrEqual(b.seconds ?? -1);
        if (query.sort === "largest") expect(a.size).toBeGreaterThanOrEqual(b.size);
        if (query.sort === "name") expect((a.name ?? "~").toLowerCase() <= (b.name ?? "~").toLowerCase()).toBe(true);
        if (query.sort === "place") expect(a.extents[0].offset).toBeLessThanOrEqual(b.extents[0].offset);
        if (query.sort === "newest") expect(timeOf(a) ?? -1).toBeGreaterThanOrEqual(timeOf(b) ?? -1);
        if (query.sort === "oldest") expect(timeOf(a) ?? -1).toBeLessThanOrEqual(timeOf(b) ?? -1);
      }
      const isInGroups = query.group !== "nothing" && (query.group !== "day" || query.sort === "newest" || query.sort === "oldest");
      expect(answer.groups !== null).toBe(isInGroups);
      let at = 0;
      for (const { of, count } of answer.groups ?? [])
        for (const end = at + count; at < end; at++) expect(groupOf(sorted[at], query)).toBe(of);
      expect(at).toBe(isInGroups ? sorted.length : 0);
      // Each group stands in one place.
      const names = (answer.groups ?? []).map(({ of }) => of);
      expect(new Set(names).size).toBe(names.length);
    }),
  );
});

test("what lies on two media counts as if it lay on one, whatever is asked", () => {
  fc.assert(
    fc.property(finds, queries, fc.integer({ min: 1, max: 3 }), (list, query, every) => {
      const [once, twice] = [new FindIndex(), new FindIndex()];
      for (const [at, find] of list.entries()) {
        const known = { ...find, sha256: at % every === 0 ? `content ${at}` : null };
        for (const index of [once, twice]) index.put(known, KEPT);
        if (known.sha256) twice.put(known, { ...KEPT, medium: 1 });
      }
      const [plain, { media, ...answer }] = [once.ask(query), twice.ask(query)];
      expect(answer).toMatchObject({ all: plain.all, bytes: plain.bytes, kinds: plain.kinds, states: plain.states, days: plain.days });
      expect(answer).toMatchObject({ conditions: plain.conditions, formats: plain.formats, bands: plain.bands });
      expect(answer.rows.length).toBe(plain.rows.length);
      expect(twice.count(query)).toBe(plain.rows.length);
      const shown = (index: FindIndex, rows: Uint32Array) => [...rows].map((row) => index.keyOf(row).slice(2)).sort();
      expect(shown(twice, answer.rows)).toEqual(shown(once, plain.rows));
    }),
  );
});

test("a find that comes again keeps its row, and answers with what is known now", () => {
  const index = new FindIndex();
  for (let number = 0; number < 3000; number++) index.put(aFind({ id: `f${number}`, size: 1 }), KEPT);
  const row = index.put(aFind({ id: "f1700", condition: "remnant", size: 7 }), KEPT);
  expect([row, index.length]).toEqual([1700, 3000]);
  expect([...index.ask({ ...EVERYTHING, conditions: ["remnant"] }).rows]).toEqual([1700]);
});

test("an order that was asked for before holds what was learned since", () => {
  const index = new FindIndex();
  for (const [id, size] of [
    ["small", 10],
    ["large", 90],
  ] as const)
    index.put(aFind({ id, size, name: `${id}.jpg` }), KEPT);
  const largest = () => [...index.ask({ ...EVERYTHING, sort: "largest" }).rows].map((row) => index.keyOf(row).slice(2));
  expect(largest()).toEqual(["large", "small"]);
  index.put(aFind({ id: "small", size: 500 }), KEPT);
  expect(largest()).toEqual(["small", "large"]);
  index.put(aFind({ id: "new", size: 200 }), KEPT);
  expect(largest()).toEqual(["small", "new", "large"]);
});

test("clocks that were never set do not stretch the axis of days over a century", () => {
  const index = new FindIndex();
  for (const year of [1970, 1980, 2026, 2107]) index.put(aFind({ id: `y${year}`, taken: Date.UTC(year, 0, 1) }), KEPT);
  const day = Date.UTC(2026, 0, 1) / DAY;
  expect(index.ask(EVERYTHING).span).toEqual({ first: day, last: day });
  index.put(aFind({ id: "older", taken: Date.UTC(2011, 0, 1) }), KEPT);
  expect(index.ask(EVERYTHING).span).toEqual({ first: Date.UTC(2011, 0, 1) / DAY, last: day });
  index.forget("0:older");
  expect(index.ask(EVERYTHING).span).toEqual({ first: day, last: day });
  expect(index.ask(EVERYTHING).days).toHaveLength(4);
});

test("a patch adds its evidence once and changes what it names", () => {
  const find = aFind({ id: "a", evidence: [{ pass: "listing", what: "its entry", at: 5 }] });
  const patch = {
    id: "a",
    condition: "damaged",
    evidence: [
      { pass: "listing", what: "its entry", at: 5 },
      { pass: "sweep", what: "its content", at: 9 },
    ],
  } as const;
  const changed = applyPatch(applyPatch(find, patch), patch);
  expect(changed).toEqual({ ...find, condition: "damaged", evidence: patch.evidence });
});

test.each([
  [".trashed-1782114800-SISK0400.JPG", { original: "SISK0400.JPG", lastDay: 1_782_114_800_000 }],
  [".trashed-1782114800-.JPG", { original: ".JPG", lastDay: 1_782_114_800_000 }],
  [".trashed-SISK0400.JPG", null],
  ["trashed-1782114800-SISK0400.JPG", null],
])("%s in a folder list: %j", (name, expected) => {
  expect(binnedName(name)).toEqual(expected);
});

test("the tree of folders: what lies a step deeper, with counts of the question, and whether anything in it is still there", () => {
  const index = new FindIndex();
  const put = (id: string, path: string | null, state: Find["state"], volume = 0) => index.put(aFind({ id, path, state, volume }), KEPT);
  put("a", "/DCIM/Tour/a.jpg", "present");
  put("b", "/DCIM/Tour/Lantern/b.jpg", "erased");
  put("c", "/DCIM/Old/c.jpg", "erased");
  put("d", "/root.txt", "present");
  put("e", null, "erased");
  put("f", "/media/f.jpg", "erased", 1);
  const under = (folder: string, query = EVERYTHING) =>
    index.foldersUnder(query, folder).map(({ key, name, count, erased, hasFolders }) => [key, name, count, erased, hasFolders]);
  expect(under("")).toEqual([
    ["0.0|", null, 5, false, true],
    ["0.1|", null, 1, true, true],
  ]);
  expect(under("0.0|")).toEqual([
    ["0.0|?", null, 1, true, false],
    ["0.0|/DCIM/", "DCIM", 3, false, true],
  ]);
  expect(under("0.0|/DCIM/")).toEqual([
    ["0.0|/DCIM/Old/", "Old", 1, true, false],
    ["0.0|/DCIM/Tour/", "Tour", 2, false, true],
  ]);
  expect(under("0.0|/DCIM/Tour/")).toEqual([["0.0|/DCIM/Tour/Lantern/", "Lantern", 1, true, false]]);
  expect(under("0.0|/DCIM/", { ...EVERYTHING, states: ["present"], folder: "0.0|/DCIM/Old/" })).toEqual([
    ["0.0|/DCIM/Old/", "Old", 0, true, false],
    ["0.0|/DCIM/Tour/", "Tour", 1, false, true],
  ]);
});

test("an order that is mended one by one is the order that a new index gives", () => {
  const sorts = ["newest", "oldest", "name", "largest", "place"] as const;
  fc.assert(
    fc.property(finds, fc.array(fc.tuple(fc.nat(60), fc.nat(50), fc.nat(30)), { maxLength: 30 }), (list, changes) => {
      const mended = new FindIndex();
      const latest = new Map<string, Find>();
      const put = (find: Find) => {
        latest.set(find.id, find);
        mended.put(find, KEPT);
      };
      list.forEach(put);
      for (const [number, size, start] of changes) {
        for (const sort of sorts) mended.ask({ ...EVERYTHING, sort });
        put(aFind({ id: `f${number}`, name: `${size}`, size, taken: start * DAY, extents: [{ offset: start, length: 1 }] }));
      }
      const anew = new FindIndex();
      for (const find of latest.values()) anew.put(find, KEPT);
      for (const sort of sorts) {
        const keys = (index: FindIndex) => [...index.ask({ ...EVERYTHING, sort }).rows].map((row) => index.keyOf(row));
        expect(keys(mended)).toEqual(keys(anew));
      }
    }),
  );
});

test("words that are typed on, taken back and asked for again, while finds come and change their names, find what a new index finds", () => {
  const typed = fc.constantFrom("l", "la", "lan", "lantern", "an", "c", "cr", "crow 9", "crow", "moon", "oo", "tour", "tour lan", "x");
  const steps = fc.array(fc.oneof(typed, fc.tuple(fc.nat(70), fc.constantFrom("Lantern.jpg", "MOONHOOK.png", "crow 9.jpg"))), {
    minLength: 5,
    maxLength: 60,
  });
  fc.assert(
    fc.property(finds, steps, (list, all) => {
      const index = new FindIndex();
      const latest = new Map<string, Find>();
      const put = (find: Find) => {
        latest.set(find.id, find);
        index.put(find, KEPT);
      };
      list.forEach(put);
      for (const step of all) {
        if (typeof step !== "string") {
          put(aFind({ id: `f${step[0]}`, name: step[1] }));
          continue;
        }
        const found = [...index.ask({ ...EVERYTHING, words: step }).rows].map((row) => index.keyOf(row).slice(2)).sort();
        const expected = [...latest.values()].filter((find) => passes(find, { ...EVERYTHING, words: step })).map(({ id }) => id);
        expect(found).toEqual(expected.sort());
      }
    }),
    { numRuns: 200 },
  );
});

test("two media of one ticket: each find by medium and id, filtered by medium, places and folders told apart", () => {
  const index = new FindIndex();
  index.put(aFind({ id: "e1", path: "/DCIM/a.jpg", extents: [{ offset: 500, length: 10 }] }), { medium: 4, pack: 2, position: 7 });
  index.put(aFind({ id: "e1", path: "/DCIM/b.jpg", extents: [{ offset: 500, length: 10 }] }), { medium: 9, pack: 0, position: 1 });
  const keys = (query: Partial<Query>) => [...index.ask({ ...EVERYTHING, ...query }).rows].map((row) => index.keyOf(row));
  expect(keys({}).sort()).toEqual(["4:e1", "9:e1"]);
  expect(keys({ media: [9] })).toEqual(["9:e1"]);
  expect(keys({ place: { medium: 4, from: 0, to: 1000 } })).toEqual(["4:e1"]);
  expect(keys({ folder: "9.0|/DCIM/" })).toEqual(["9:e1"]);
  expect([...index.ask({ ...EVERYTHING, media: [9] }).media]).toEqual([
    [4, 1],
    [9, 1],
  ]);
  expect(index.keptAt(index.rowOf("4:e1") ?? -1)).toEqual({ medium: 4, pack: 2, position: 7 });
  index.forget("4:e1");
  expect(keys({})).toEqual(["9:e1"]);
  expect(index.foldersUnder(EVERYTHING, "").map(({ key }) => key)).toEqual(["9.0|"]);
});

test("same size and SHA-256, once both are known: one thing in two places, counted and shown once; nothing is merged", () => {
  const index = new FindIndex();
  const at = (medium: number) => ({ medium, pack: 0, position: 0 });
  const phone = index.put(aFind({ id: "a", state: "erased", size: 10, sha256: "aa" }), at(1));
  const card = index.put(aFind({ id: "b", state: "present", size: 10 }), at(2));
  index.put(aFind({ id: "c", state: "present", size: 11, sha256: "aa" }), at(2));
  expect(index.ask(EVERYTHING).rows.length).toBe(3);
  index.sameAs(card, "aa");
  index.sameAs(card, "aa");
  expect(index.alike(phone).sort()).toEqual(["1:a", "2:b"]);
  const answer = index.ask(EVERYTHING);
  expect(answer).toMatchObject({ bytes: 21, kinds: { photo: 2 }, states: { erased: 1, present: 2 } });
  expect(answer.rows.length).toBe(2);
  // Each filter finds the place that passes it.
  for (const [query, keys] of [
    [{ states: ["present"] }, ["2:b", "2:c"]],
    [{ states: ["erased"] }, ["1:a"]],
    [{ media: [2] }, ["2:b", "2:c"]],
  ] as const)
    expect([...index.ask({ ...EVERYTHING, ...query }).rows].map((row) => index.keyOf(row)).sort()).toEqual(keys);
  index.forget("1:a");
  expect(index.alike(card)).toEqual(["2:b"]);
  expect(index.ask(EVERYTHING).rows.length).toBe(2);
});

test("a find that is told anew with another content leaves its group; the others stay together", () => {
  const index = new FindIndex();
  const at = (medium: number) => ({ medium, pack: 0, position: 0 });
  const rows = [1, 2, 3].map((medium) => index.put(aFind({ id: "a", size: 10, sha256: "aa" }), at(medium)));
  expect(index.alike(rows[0])).toEqual(["1:a", "2:a", "3:a"]);
  index.put(aFind({ id: "a", size: 12, sha256: "bb" }), at(2));
  expect(index.alike(rows[0])).toEqual(["1:a", "3:a"]);
  expect(index.alike(rows[1])).toEqual([]);
  // Nothing is known of its content yet.
  index.put(aFind({ id: "a", size: 14 }), at(3));
  expect(index.alike(rows[0])).toEqual(["1:a"]);
  expect(index.ask(EVERYTHING)).toMatchObject({ all: 3, bytes: 36, kinds: { photo: 3 } });
});

test("groups: each in one place and in its order, what is in it in the order asked for; facts count with all filters but their own", () => {
  const index = new FindIndex();
  const put = (id: string, own: Partial<Find>) => index.put(aFind({ id, ...own }), KEPT);
  put("a", { path: "/DCIM/Z/a.jpg", name: "a.jpg", size: 50, camera: "ZU 9", kind: "photo", format: "jpeg" });
  put("b", { path: "/DCIM/A/b.mp4", name: "b.mp4", size: 90, camera: null, kind: "video", format: "mp4", seconds: 61 });
  put("c", { path: "/DCIM/Z/c.png", name: "c.png", size: 70, camera: "QX 3", kind: "photo", format: "png" });
  put("d", { path: null, name: null, size: 10, camera: "ZU 9", kind: "photo", format: "jpeg" });
  put("e", { path: "/DCIM/A/e.mp4", name: "e.mp4", size: 120_000, camera: "QX 3", kind: "video", format: "mp4", seconds: 5 });
  const told = (query: Partial<Query>) => {
    const { rows, groups } = index.ask({ ...EVERYTHING, ...query });
    return [[...rows].map((row) => index.keyOf(row).slice(2)).join(""), groups?.map(({ of, count }) => `${of} ${count}`)];
  };
  expect(told({ group: "folder", sort: "largest" })).toEqual(["ebcad", ["0.0|/DCIM/A/ 2", "0.0|/DCIM/Z/ 2", "0.0|? 1"]]);
  expect(told({ group: "camera", sort: "name" })).toEqual(["ceadb", ["QX 3 2", "ZU 9 2", "null 1"]]);
  expect(told({ group: "kind", sort: "longest" })).toEqual(["acdbe", ["photo 3", "video 2"]]);
  expect(told({ group: "day", sort: "largest" })).toEqual(["ebcad", undefined]);
  const { formats, bands } = index.ask({ ...EVERYTHING, formats: ["jpeg"], bands: { size: [0], length: [], pixels: [] } });
  expect(Object.fromEntries(formats)).toEqual({ jpeg: 2, mp4: 1, png: 1 });
  expect(bands.size).toEqual([2, 0, 0, 0, 0]);
  expect(index.ask({ ...EVERYTHING, bands: { size: [], length: [0, 2], pixels: [] } }).bands.length).toEqual([1, 0, 1, 0, 0]);
});

test("what is in several places counts once in each fact", () => {
  const index = new FindIndex();
  for (const id of ["one", "two"]) index.put(aFind({ id, size: 5000, sha256: "f".repeat(64), format: "png" }), KEPT);
  expect(index.ask({ ...EVERYTHING, formats: ["jpeg"] }).formats.get("png")).toBe(1);
  expect(index.ask(EVERYTHING).bands.size[0]).toBe(1);
});

test("what is to come first stands before the rest, in the same order, and nothing is filtered out", () => {
  const index = new FindIndex();
  const names = ["b lantern.jpg", "a crow.jpg", "c lantern tour.jpg", "d.jpg"];
  for (const [number, name] of names.entries()) index.put(aFind({ id: `f${number}`, name, path: `/x/${name}` }), KEPT);
  const asked = { ...EVERYTHING, sort: "name", group: "nothing", first: "LANTERN tour" } as const;
  expect([...index.ask(asked).rows].map((row) => names[row])).toEqual(["b lantern.jpg", "c lantern tour.jpg", "a crow.jpg", "d.jpg"]);
  expect([...index.ask({ ...asked, first: "nobody" }).rows].map((row) => names[row])).toEqual([...names].sort());
  const grouped = index.ask({ ...asked, group: "kind" });
  expect(grouped.groups?.map(({ count }) => count)).toEqual([2, 2]);
});
