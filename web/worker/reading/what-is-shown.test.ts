import { expect, test } from "vitest";
import { HOLE } from "../../../core/bytes/extents.ts";
import { memorySource } from "../../../core/bytes/memory-source.ts";
import { RangeSet } from "../../../core/bytes/ranges.ts";
import { UnreadableError } from "../../../core/bytes/source.ts";
import { joined, noise } from "../../../test/pictures.ts";
import { decodedText } from "../looking/letters.ts";
import { asCopy, asParts, MOST_COPIED } from "./as-blob.ts";
import { drawing } from "./drawings.ts";
import { firstLines, isNoText } from "./first-lines.ts";

const bytes = (text: string) => new TextEncoder().encode(text);
const all = async (blob: Blob | null) => new Uint8Array((await blob?.arrayBuffer()) ?? new ArrayBuffer(0));

test("a content in pieces is one blob of them, in its order, holes and known dead places as zeros", async () => {
  const storage = noise(10_000, 5);
  const file = new Blob([new Uint8Array(storage)]);
  const unreadable = new RangeSet();
  unreadable.add(5120, 512);
  const extents = [
    { offset: 8000, length: 700 },
    { offset: HOLE, length: 70_000 },
    { offset: 5000, length: 1000 },
  ];
  const got = asParts({ extents, size: 71_700 }, file, unreadable, "video/mp4");
  const part = storage.slice(5000, 6000);
  part.fill(0, 120, 632);
  expect(got?.type).toBe("video/mp4");
  expect(Buffer.from(await all(got)).equals(joined(storage.subarray(8000, 8700), new Uint8Array(70_000), part))).toBe(true);
});

test("a hole of gigabytes costs no memory; what is packed is no part of a file", () => {
  const file = new Blob([new Uint8Array(10)]);
  const huge = 3 * 2 ** 30;
  expect(asParts({ extents: [{ offset: HOLE, length: huge }], size: huge }, file, new RangeSet(), "")?.size).toBe(huge);
  expect(asParts({ extents: [], packed: { with: "deflate", skip: 0 }, size: 5 }, file, new RangeSet(), "")).toBeNull();
});

test("a copy holds the same bytes; one that is too large is not made; a dead place is told", async () => {
  const content = noise(300_000, 6);
  const stored = { extents: [{ offset: 0, length: content.length }], size: content.length };
  expect(Buffer.from(await all(await asCopy(stored, memorySource(content), ""))).equals(content)).toBe(true);
  const size = MOST_COPIED + 1;
  expect(await asCopy({ extents: [{ offset: 0, length: size }], size }, memorySource(content), "")).toBeNull();
  const dead = { ...memorySource(content), read: async () => Promise.reject(new UnreadableError(0, 512)) };
  await expect(asCopy(stored, dead, "")).rejects.toThrow(UnreadableError);
});

/** Encodings: Unicode Standard §23.8; one letter a byte: WHATWG Encoding, windows-1252. */
test.each<[string, Uint8Array, string[]]>([
  ["UTF-8", bytes("Bună, Ilse\r\n\r\n\r\nluna\tplină\n"), ["Bună, Ilse", "", "luna  plină"]],
  ["UTF-8 with its mark", joined(Uint8Array.of(0xef, 0xbb, 0xbf), bytes("luna")), ["luna"]],
  ["UTF-16, low byte first", joined(Uint8Array.of(0xff, 0xfe), new Uint8Array(Buffer.from("lună plină", "utf16le"))), ["lună plină"]],
  ["one letter a byte", Uint8Array.of(0x63, 0x61, 0x66, 0xe9), ["café"]],
  ["long lines", bytes("x".repeat(500)), ["x".repeat(90)]],
])("the first lines of a text in %s", (_, content, lines) => {
  expect(firstLines(decodedText(content, false))).toEqual(lines);
});

test("a letter that is cut in two by the end of what is read is no reason to take the text for another encoding", () => {
  const cut = bytes(`${"a".repeat(40)}ă`).subarray(0, 41);
  expect(decodedText(cut, true)).toBe("a".repeat(40));
  expect(decodedText(cut, false)).toBe(`${"a".repeat(40)}Ä`);
  expect(firstLines(`ă ${"b\n".repeat(3000)}`)).toHaveLength(14);
});

test("what is no text, whatever its name says, is not shown as one", () => {
  expect(firstLines(decodedText(noise(4096, 9), false))).toBeNull();
  expect(isNoText("all of it reads\nwell")).toBe(false);
  expect(isNoText(`a${"\u0001".repeat(3)}`)).toBe(true);
});

test.each([
  ["uses that could be nested", `<svg xmlns="http://www.w3.org/2000/svg">${'<use href="#a"/>'.repeat(401)}</svg>`],
  ["entities of its own", `<!DOCTYPE svg [<!ENTITY a "aaaa">]><svg xmlns="http://www.w3.org/2000/svg"><text>&a;</text></svg>`],
  ["filters without end", `<svg xmlns="http://www.w3.org/2000/svg">${"<feTurbulence/>".repeat(201)}</svg>`],
  ["uses under another name", `<s:svg xmlns:s="http://www.w3.org/2000/svg">${'<s:use href="#a"/>'.repeat(401)}</s:svg>`],
])("a drawing with %s is told of by a word", async (_, content) => {
  expect(await drawing(memorySource(bytes(content)))).toEqual({ word: "made to cost time: it is not drawn" });
});

test("a drawing is handed on as an image and as nothing else; a huge one is not", async () => {
  const content = bytes(`<svg xmlns="http://www.w3.org/2000/svg"><script>1</script><rect width="4" height="4"/></svg>`);
  const answer = await drawing(memorySource(content));
  expect("picture" in answer && answer.picture.type).toBe("image/svg+xml");
  const huge = { ...memorySource(content), size: 3 * 1024 * 1024 };
  expect(await drawing(huge)).toMatchObject({ word: expect.stringContaining("too large") });
});
