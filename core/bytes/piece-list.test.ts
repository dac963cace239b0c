import { expect, test } from "vitest";
import { noise } from "../../test/pictures.ts";
import { PieceList } from "./piece-list.ts";

test("bytes come out as they went in, however they were cut", () => {
  const all = noise(50_000, 3);
  const list = new PieceList();
  const cuts = noise(400, 4);
  let at = 0;
  for (const cut of cuts) {
    list.add(all.subarray(at, at + cut));
    at = Math.min(all.length, at + cut);
  }
  expect(list.length).toBe(at);
  const out: number[] = [];
  for (const cut of noise(1000, 5)) out.push(...list.take(Math.min(cut, list.length)));
  out.push(...list.take(list.length));
  expect(Buffer.from(out).equals(Buffer.from(all.subarray(0, at)))).toBe(true);
  expect(() => list.take(1)).toThrow(RangeError);
});

test("what lies within one piece is not copied", () => {
  const list = new PieceList();
  const piece = noise(4096);
  list.add(piece);
  expect(list.take(1000).buffer).toBe(piece.buffer);
  expect(list.take(3096).byteOffset).toBe(1000);
});
