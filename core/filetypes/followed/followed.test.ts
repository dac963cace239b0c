import { makeZip } from "client-zip";
import { expect, test } from "vitest";
import { joined, noise } from "../../../test/pictures.ts";
import { memorySource } from "../../bytes/memory-source.ts";
import { followed, typeOfHead } from "../table.ts";

/** Contents made by hand as their documents lay them down (named in each format's own file); the archive is by client-zip. */
const ascii = (text: string) => Uint8Array.from(text, (letter) => letter.charCodeAt(0));
const le = (bytes: number, value: number) => Uint8Array.from({ length: bytes }, (_, index) => Math.floor(value / 256 ** index) % 256);
const be = (bytes: number, value: number) => le(bytes, value).reverse();
const box = (type: string, body: Uint8Array) => joined(be(4, body.length + 8), ascii(type), body);
const page = (flags: number, body: Uint8Array) =>
  joined(ascii("OggS"), Uint8Array.of(0, flags), new Uint8Array(20), Uint8Array.of(2, 255, body.length - 255), body);
const archive = async (names: readonly string[]) =>
  new Uint8Array(
    await new Response(makeZip(names.map((name, seed) => ({ name, input: noise(700, seed), lastModified: new Date(0) })))).arrayBuffer(),
  );
const repeated = (count: number, piece: Uint8Array) => joined(...Array.from({ length: count }, () => piece));

const CONTENTS: readonly (readonly [string, Uint8Array])[] = [
  ["wav", joined(ascii("RIFF"), le(4, 4 + 300), ascii("WAVE"), noise(300, 1))],
  ["avi", joined(ascii("RIFF"), le(4, 4 + 500), ascii("AVI "), noise(500, 2))],
  ["bmp", joined(ascii("BM"), le(4, 54 + 120), le(4, 0), le(4, 54), le(4, 40), noise(36 + 120, 3))],
  ["sqlite", joined(ascii("SQLite format 3\0"), be(2, 1024), noise(10, 4), be(4, 3), noise(3072 - 32, 5))],
  [
    "tiff",
    joined(
      ascii("II*\0"),
      le(4, 8),
      le(2, 2),
      le(2, 273),
      le(2, 4),
      le(4, 1),
      le(4, 100),
      le(2, 279),
      le(2, 4),
      le(4, 1),
      le(4, 400),
      le(4, 0),
      noise(500 - 38, 6),
    ),
  ],
  [
    "webm",
    joined(
      be(4, 0x1a45dfa3),
      Uint8Array.of(0x87, 0x42, 0x82, 0x84),
      ascii("webm").slice(0, 4),
      be(4, 0x18538067),
      Uint8Array.of(0x41, 0x00),
      noise(256, 7),
    ),
  ],
  ["mp4", joined(box("ftyp", ascii("isom\0\0\0\0isom")), box("mdat", noise(900, 8)), box("moov", noise(200, 9)))],
  ["mov", joined(box("ftyp", ascii("qt  \0\0\0\0qt  ")), box("moov", noise(200, 10)), box("mdat", noise(900, 11)))],
  ["heic", joined(box("ftyp", ascii("heic\0\0\0\0mif1")), box("meta", noise(200, 12)), box("mdat", noise(900, 13)))],
  ["zip", await archive(["a.txt", "folder/b.bin"])],
  ["docx", await archive(["[Content_Types].xml", "word/document.xml"])],
  ["opus", joined(page(2, joined(ascii("OpusHead"), noise(300, 14))), page(4, noise(400, 15)))],
  [
    "gif",
    joined(
      ascii("GIF89a"),
      le(2, 4),
      le(2, 4),
      Uint8Array.of(0x80, 0, 0),
      noise(6, 16),
      Uint8Array.of(0x2c),
      new Uint8Array(9),
      Uint8Array.of(2, 3, 9, 9, 9, 0, 0x3b),
    ),
  ],
  ["pdf", joined(ascii("%PDF-1.7\n1 0 obj\nendobj\nstartxref\n9\n%%EOF\n2 0 obj\nendobj\nstartxref\n99\n%%EOF\n"))],
  ["aac", repeated(8, joined(Uint8Array.of(0xff, 0xf1, 0x50, 0x80, 0x0c, 0x9f, 0xfc), noise(93, 17)))],
  [
    "mp3",
    joined(ascii("ID3\x04\0\0\0\0\0\x0a"), noise(10, 18), repeated(6, joined(Uint8Array.of(0xff, 0xfb, 0x90, 0x00), noise(413, 19)))),
  ],
  ["amr", joined(ascii("#!AMR\n"), repeated(9, joined(Uint8Array.of(0x3c), noise(31, 20))))],
  ["vcf", ascii(`BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Kasimir Holm\r\n${"NOTE:the lantern\r\n".repeat(9)}END:VCARD\r\n`)],
  ["ics", ascii(`BEGIN:VCALENDAR\r\nVERSION:2.0\r\n${"COMMENT:rehearsal\r\n".repeat(9)}END:VCALENDAR\r\n`)],
  ["html", ascii(`<!DOCTYPE html><html><body>${"<p>Nine Crows</p>".repeat(9)}</body></html>`)],
  ["json", ascii(`{"crows": [${"9, ".repeat(30)}9]}`)],
  ["csv", ascii("name,place,seats\n".repeat(9))],
];
const follow = async (bytes: Uint8Array) => {
  const type = typeOfHead(bytes);
  return type?.reach === "followed" ? followed(type, memorySource(bytes)) : null;
};

test.each(CONTENTS)("%s: goes on as far as it says, whatever follows", async (format, content) => {
  // Drivers clear the rest of the last page; behind it stands anything.
  expect(await follow(joined(content, new Uint8Array(2000), noise(4000, 99)))).toMatchObject({
    format: { name: format },
    length: content.length,
    ends: true,
  });
});

test.each(CONTENTS.filter(([format]) => !["aac", "mp3", "amr", "vcf", "ics", "html", "json", "csv"].includes(format)))(
  "%s that is cut off does not end, and claims nothing that is not there",
  async (_, content) => {
    const cut = content.slice(0, Math.floor(content.length * 0.7));
    const declared = await follow(cut);
    expect(declared?.ends ?? false).toBe(false);
    expect(declared?.length ?? 0).toBeLessThanOrEqual(cut.length);
  },
);

test("noise and zeros begin nothing; broken contents end the walk without an error (2,000 of each, seed 1)", async () => {
  for (let seed = 0; seed < 2000; seed++) expect(await follow(noise(600, seed))).toBeNull();
  expect(typeOfHead(new Uint8Array(64))).toBeNull();
  for (let seed = 0; seed < 2000; seed++) {
    const bytes = CONTENTS[seed % CONTENTS.length][1].slice();
    const [at, value] = noise(2, seed);
    bytes[(at * 7) % bytes.length] = value;
    const declared = await follow(bytes);
    expect(declared?.length ?? 0).toBeLessThanOrEqual(bytes.length);
  }
});

// RFC 8794 §6.2, RFC 9559 §5.1: recorded as it comes, a segment and its clusters have no sizes; their end is where something else stands.
test("a recording of unknown size ends with its last block, whatever stands behind it", async () => {
  const unknown = Uint8Array.of(1, 255, 255, 255, 255, 255, 255, 255);
  const element = (id: readonly number[], content: Uint8Array) =>
    joined(Uint8Array.from(id), Uint8Array.of(0x40 | (content.length >> 8), content.length & 255), content);
  const cluster = (seed: number) =>
    joined(
      be(4, 0x1f43b675),
      unknown,
      element([0xe7], le(1, seed)),
      element([0xa3], noise(3000, seed)),
      element([0xa3], noise(700, seed + 1)),
    );
  const whole = joined(
    be(4, 0x1a45dfa3),
    Uint8Array.of(0x87, 0x42, 0x82, 0x84),
    ascii("webm"),
    be(4, 0x18538067),
    unknown,
    element([0x16, 0x54, 0xae, 0x6b], noise(200, 3)),
    cluster(5),
    cluster(8),
  );
  for (const behind of [new Uint8Array(0), new Uint8Array(9000), noise(9000, 9)]) {
    expect(await follow(joined(whole, behind))).toMatchObject({
      format: { name: "webm", kind: "video" },
      length: whole.length,
      ends: true,
    });
  }
});
