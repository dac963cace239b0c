import { expect, test } from "vitest";
import { aFind } from "../test/finds.ts";
import { Settling } from "./settling.ts";

const volume = (index: number, filesystem: string) => ({
  index,
  filesystem,
  start: 0,
  length: 1,
  label: null,
  encrypted: false,
  used: 0,
  free: 0,
  clusterBytes: 512,
});
const settling = () => {
  const one = new Settling();
  one.volumes([volume(0, "FAT32"), volume(1, "ext4")]);
  return one;
};
const ids = (finds: readonly { id: string }[]) => finds.map(({ id }) => id);
const present = (id: string, on: number) => aFind({ id, state: "present", volume: on });

test("what nothing can change any more is told at once, the rest when its pass is over", () => {
  const one = settling();
  const finds = [
    present("fat", 0),
    present("ext4", 1),
    aFind({ id: "erased ext4", volume: 1 }),
    aFind({ id: "erased fat", volume: 0 }),
    aFind({ id: "unchecked", volume: 1, checked: false }),
  ];
  expect(ids(one.take(finds, [], "listing"))).toEqual(["ext4", "erased ext4"]);
  expect(ids(one.take([], [], "listing"))).toEqual([]);
  expect(ids(one.take([], [], "sweep"))).toEqual(["fat"]);
  expect(ids(one.rest(new Map()))).toEqual(["erased fat", "unchecked"]);
});

test("what is held back is told with all that was learned of it", () => {
  const one = settling();
  one.take([present("a", 0)], [], "listing");
  one.take([], [{ id: "a", condition: "damaged", because: "crossed", evidence: [] }], "listing");
  expect(one.take([], [], "sweep")).toMatchObject([{ id: "a", condition: "damaged", because: "crossed" }]);
});

test("a find whose condition turned out to be another after it was told is told again; new evidence alone is not worth a second line", () => {
  const one = settling();
  const told = present("b", 1);
  one.take([told, present("c", 1)], [], "listing");
  const finds = new Map([
    ["b", { ...told, condition: "damaged" as const }],
    ["c", { ...present("c", 1), evidence: [{ pass: "sweep" as const, what: "a copy", at: 0 }] }],
  ]);
  expect(one.rest(finds)).toMatchObject([{ id: "b", condition: "damaged" }]);
});
