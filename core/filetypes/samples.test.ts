import { execFileSync } from "node:child_process";
import { mkdtempSync, readdirSync, readFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import CFB from "cfb";
import { makeZip } from "client-zip";
import { describe, expect, test } from "vitest";
import { joined, jpegOf, noise } from "../../test/pictures.ts";
import { memorySource } from "../bytes/memory-source.ts";
import type { ByteSource } from "../bytes/source.ts";
import { followed, formatNamed, formatOf, headerFacts, pixelsOf, promisedBy, typeOfHead } from "./table.ts";

/** Files by real tools (test/samples/README.md): what they really are, by their names. */
const SAMPLES = new URL("../../test/samples/files.tar.gz", import.meta.url);
const folder = mkdtempSync(join(tmpdir(), "jubar-samples-"));
execFileSync("tar", ["-xzf", SAMPLES.pathname, "-C", folder]);
/** Endings under which a tool writes something else, or that say less than the content does. */
const REALLY: Record<string, string> = { "voice.mp4": "m4a", "film.m2ts": "ts", "pic.tiff": "tiff", "pic.j2k": "jp2" };
const FILES = readdirSync(folder).filter((name) => name !== "pic.png");

const ascii = (text: string) => Uint8Array.from(text, (letter) => letter.charCodeAt(0));
const le = (bytes: number, value: number) => Uint8Array.from({ length: bytes }, (_, index) => Math.floor(value / 256 ** index) % 256);
const be = (bytes: number, value: number) => le(bytes, value).reverse();

async function follow(content: Uint8Array) {
  const type = typeOfHead(content);
  if (type?.reach !== "followed") return null;
  const told = await followed(type, memorySource(content));
  return told && { name: told.format.name, kind: told.format.kind, length: told.length, ends: told.ends };
}

describe("files by real tools", () => {
  test.each(FILES)("%s: its format and its last byte are told, whatever lies behind it", async (name) => {
    const content = new Uint8Array(readFileSync(join(folder, name)));
    const format = REALLY[name] ?? promisedBy(name).name;
    // Sound alone in a video's format is sound, as a phone writes voice notes.
    const kind = name === "voice.3gp" ? "audio" : formatNamed(format).kind;
    const told = { name: format, kind, length: content.length, ends: true };
    const filled = (512 - (content.length % 512)) % 512;
    expect(await follow(joined(content, new Uint8Array(filled), noise(5000, 3)))).toEqual(told);
    expect(await follow(content)).toEqual(told);
  });

  test.each(FILES)("%s: cut anywhere it claims no more than is there, and its broken bytes end no walk in an error", async (name) => {
    const content = new Uint8Array(readFileSync(join(folder, name)));
    for (let seed = 0; seed < 40; seed++) {
      const cut = content.slice(0, 16 + ((seed * 997) % content.length));
      expect((await follow(cut))?.length ?? 0).toBeLessThanOrEqual(cut.length);
      const broken = content.slice();
      for (const [at, value] of [noise(2, seed), noise(2, seed + 500)]) broken[(at * 131 + seed * 7) % broken.length] = value;
      expect((await follow(broken))?.length ?? 0).toBeLessThanOrEqual(broken.length);
    }
  });

  test.each(FILES)("%s: a file that is there is told by its content, not by its ending", async (name) => {
    const content = memorySource(new Uint8Array(readFileSync(join(folder, name))));
    const type = typeOfHead(await content.read(0, Math.min(2048, content.size)));
    expect(type && (await formatOf(type, content)).name).toBe(REALLY[name] ?? promisedBy(name).name);
  });
});

/** As the reference library SheetJS "cfb" writes compound files. */
test.each([
  ["WordDocument", "doc"],
  ["Workbook", "xls"],
  ["PowerPoint Document", "ppt"],
  ["Anything", "ole2"],
])("a compound file with a stream %s is %s", async (stream, format) => {
  const book = CFB.utils.cfb_new();
  CFB.utils.cfb_add(book, `/${stream}`, Buffer.from(noise(9000, 4)));
  CFB.utils.cfb_add(book, "/SummaryInformation", Buffer.from(noise(700, 5)));
  const content = new Uint8Array(CFB.write(book, { type: "buffer" }) as Buffer);
  expect(await follow(joined(content, noise(3000, 6)))).toMatchObject({ name: format, length: content.length, ends: true });
});

test.each([
  ["application/vnd.oasis.opendocument.text", "odt"],
  ["application/vnd.oasis.opendocument.spreadsheet", "ods"],
  ["application/vnd.oasis.opendocument.presentation", "odp"],
  ["application/epub+zip", "epub"],
])("an open document is what its media type says: %s", async (media, format) => {
  const entries = [
    { name: "mimetype", input: media },
    { name: "content.xml", input: noise(600, 2) },
  ].map((entry) => ({ ...entry, lastModified: new Date(0) }));
  const content = new Uint8Array(await new Response(makeZip(entries)).arrayBuffer());
  expect(await follow(joined(content, noise(900, 7)))).toMatchObject({ name: format, length: content.length, ends: true });
  const source = memorySource(content);
  const type = typeOfHead(content);
  expect(type && (await formatOf(type, source)).name).toBe(format);
});

/** Files of a few bytes, put together as their documents lay them down (named in each type's own file). */
const EXAMPLES: readonly (readonly [string, Uint8Array])[] = [
  // "Standard MIDI Files 1.0", the example of format 0 (from memory).
  [
    "midi",
    Uint8Array.from(
      `4d546864000000060000000100604d54726b0000003b00ff580404021808 00ff510307a12000c00500c12e00c24600923060003c6060914340 60904c2081408230400 03c4000814340 00804c4000ff2f00`
        .replaceAll(" ", "")
        .match(/../g) ?? [],
      (pair) => Number.parseInt(pair, 16),
    ),
  ],
  [
    "rar",
    joined(
      ascii("Rar!\x1a\x07\x01\x00"),
      // Main header, a file of 300 bytes, end of archive: check sum, size, kind, flags …
      joined(le(4, 1), Uint8Array.of(5, 1, 0, 0, 0, 0)),
      joined(le(4, 2), Uint8Array.of(6, 2, 2, 0xac, 2, 0, 0), noise(300, 8)),
      joined(le(4, 3), Uint8Array.of(3, 5, 0, 0)),
    ),
  ],
  [
    "ape",
    joined(
      ascii("MAC "),
      le(2, 3990),
      le(2, 0),
      le(4, 52),
      le(4, 24),
      le(4, 8),
      le(4, 44),
      le(4, 500),
      le(4, 0),
      le(4, 0),
      noise(16, 1),
      noise(24 + 8 + 44 + 500, 2),
    ),
  ],
  [
    "ttf",
    joined(
      be(4, 0x10000),
      be(2, 4),
      be(2, 64),
      be(2, 2),
      be(2, 0),
      ...[76, 176, 276, 376].map((place) => joined(ascii("glyf"), be(4, 0), be(4, place), be(4, 100))),
      noise(400, 9),
    ),
  ],
  ["eml", ascii(`Received: from lantern.example\r\nFrom: Ilse\r\nSubject: the fox\r\n\r\n${"It is in the van.\r\n".repeat(9)}`)],
  ["svg", ascii(`<?xml version="1.0"?>\n<svg xmlns="http://www.w3.org/2000/svg">${"<path/>".repeat(20)}</svg>`)],
  ["rtf", ascii(`{\\rtf1\\ansi ${"A fox and a lantern. ".repeat(9)}}`)],
  ["awb", joined(ascii("#!AMR-WB\n"), ...Array.from({ length: 8 }, () => joined(Uint8Array.of(0x14), noise(32, 3))))],
];
test.each(EXAMPLES)("%s: followed to the end that it says it has", async (format, content) => {
  expect(await follow(joined(content, new Uint8Array(600), noise(3000, 5)))).toMatchObject({
    name: format,
    length: content.length,
    ends: true,
  });
});

test("a font of the web is followed by the length in its header", async () => {
  const fonts = new URL("../../node_modules/@fontsource-variable/atkinson-hyperlegible-mono/files/", import.meta.url).pathname;
  const [name] = readdirSync(fonts).filter((one) => one.endsWith(".woff2"));
  const content = new Uint8Array(readFileSync(join(fonts, name)));
  expect(await follow(joined(content, noise(900, 1)))).toMatchObject({ name: "woff2", length: content.length, ends: true });
});

/** exiftool's word on a file's width and height, where it has one. */
const exiftoolSides = (name: string): { width: number; height: number } | null => {
  const [told] = JSON.parse(
    execFileSync("exiftool", ["-j", "-n", "-ImageWidth", "-ImageHeight", join(folder, name)], { encoding: "utf8" }),
  );
  return told.ImageWidth && told.ImageHeight ? { width: told.ImageWidth, height: told.ImageHeight } : null;
};
const SIDED = FILES.filter((name) => /^(pic|opj)\.|^film\.mp4/.test(name));

describe("sides by the header alone", () => {
  test.each(SIDED)("%s: as exiftool says, with few bytes read", async (name) => {
    const bytes = new Uint8Array(readFileSync(join(folder, name)));
    let read = 0;
    const watched: ByteSource = {
      ...memorySource(bytes),
      read: async (offset, length) => {
        read += length;
        return bytes.subarray(offset, offset + length);
      },
    };
    const type = typeOfHead(bytes);
    expect(type && (await pixelsOf(type, watched))).toEqual(exiftoolSides(name));
    expect(exiftoolSides(name)).not.toBeNull();
    expect(read).toBeLessThan(200 * 1024);
  });

  test.each(SIDED)("%s: broken bytes never make it fail, and never sides that are none", async (name) => {
    const content = new Uint8Array(readFileSync(join(folder, name)));
    for (let seed = 0; seed < 60; seed++) {
      const broken = content.slice(0, seed % 3 === 0 ? 13 + ((seed * 37) % 400) : undefined);
      for (let index = 0; index < 4; index++)
        broken[(noise(2, seed * 7 + index)[0] * 3 + index * 29) % Math.min(broken.length, 900)] = noise(2, seed + index)[1];
      const type = typeOfHead(broken.subarray(0, 4096));
      const sides = type && (await pixelsOf(type, memorySource(broken)));
      if (sides)
        for (const side of [sides.width, sides.height]) expect(side).toSatisfy((value) => Number.isSafeInteger(value) && value > 0);
    }
  });

  /** Values from memory of the formats' published headers: what the tools above do not write. */
  test.each<[string, Uint8Array, { width: number; height: number } | null]>([
    [
      "a lossless WebP",
      joined(
        ascii("RIFF"),
        le(4, 40),
        ascii("WEBPVP8L"),
        le(4, 20),
        Uint8Array.of(0x2f),
        le(4, (639 | (479 << 14)) >>> 0),
        new Uint8Array(40),
      ),
      { width: 640, height: 480 },
    ],
    [
      "an extended WebP",
      joined(ascii("RIFF"), le(4, 60), ascii("WEBPVP8X"), le(4, 10), new Uint8Array(4), le(3, 16_383), le(3, 99), new Uint8Array(60)),
      { width: 16_384, height: 100 },
    ],
    [
      "a bitmap that goes downwards",
      joined(ascii("BM"), le(4, 200), le(4, 0), le(4, 54), le(4, 40), le(4, 30), le(4, 2 ** 32 - 20), new Uint8Array(150)),
      { width: 30, height: 20 },
    ],
    [
      "a bitmap of the oldest kind",
      joined(ascii("BM"), le(4, 200), le(4, 0), le(4, 26), le(4, 12), le(2, 31), le(2, 21), new Uint8Array(150)),
      { width: 31, height: 21 },
    ],
    [
      "a drawing with sides",
      ascii(`<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" width="300px" height='150.4'><rect/></svg>`),
      { width: 300, height: 150 },
    ],
    [
      "a drawing with a view box",
      ascii(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 24 12" width="100%"><path d="M0 0"/></svg>     `),
      { width: 24, height: 12 },
    ],
    ["a drawing of no size", ascii(`<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0L1 1L2 2"/></svg>                 `), null],
    ["a GIF of nothing", joined(ascii("GIF89a"), new Uint8Array(60)), null],
    ["sound in RIFF", joined(ascii("RIFF"), le(4, 60), ascii("WAVEfmt "), new Uint8Array(60)), null],
  ])("%s", async (_, bytes, sides) => {
    const type = typeOfHead(bytes);
    expect(type && (await pixelsOf(type, memorySource(bytes)))).toEqual(sides);
  });
});

describe("pictures within others", () => {
  /** A TIFF of directories, each a list of [tag, type 4, value] (TIFF 6.0 §2), with a JPEG behind them. */
  function raw(
    directories: readonly (readonly (readonly [number, number])[])[],
    jpegs: readonly Uint8Array[],
  ): { file: Uint8Array; places: number[] } {
    const lengths = directories.map((entries) => 2 + entries.length * 12 + 4);
    const end = 8 + lengths.reduce((sum, length) => sum + length, 0);
    const places = jpegs.map((_, index) => end + jpegs.slice(0, index).reduce((sum, { length }) => sum + length, 0));
    let at = 8;
    const lists = directories.map((entries, index) => {
      at += lengths[index];
      const next = index + 1 < directories.length ? at : 0;
      // A value below 0 stands for the place of that JPEG, counted from -1.
      return joined(
        le(2, entries.length),
        ...entries.map(([tag, value]) => joined(le(2, tag), le(2, 4), le(4, 1), le(4, value < 0 ? places[-value - 1] : value))),
        le(4, next),
      );
    });
    return { file: joined(ascii("II*\0"), le(4, 8), ...lists, ...jpegs), places };
  }

  test("a raw photo's own previews are told, its sensor's pixels are not one", async () => {
    const [small, large, sensor] = [jpegOf(40, 30, 1), jpegOf(200, 150, 2), noise(5000, 3)];
    const { file, places } = raw(
      [
        [
          [256, 200],
          [257, 150],
          [259, 6],
          [262, 6],
          [273, -2],
          [279, large.length],
        ],
        [
          [513, -1],
          [514, small.length],
        ],
        [
          [256, 4000],
          [257, 3000],
          [259, 7],
          [262, 32_803],
          [273, -3],
          [279, sensor.length],
        ],
      ],
      [small, large, sensor],
    );
    const type = typeOfHead(file);
    const content = memorySource(file);
    const told = (await type?.inner?.(content)) ?? [];
    expect([...told].sort((a, b) => a.length - b.length)).toEqual([
      { offset: places[0], length: small.length },
      { offset: places[1], length: large.length },
    ]);
    expect(type && (await pixelsOf(type, content))).toEqual({ width: 4000, height: 3000 });
    expect(type && (await formatOf(type, content)).name).toBe("raw");
  });

  test("a layered picture's small copy is found behind the other resources (Adobe Photoshop File Formats Specification)", async () => {
    const jpeg = jpegOf(40, 30, 4);
    const resource = (id: number, data: Uint8Array) =>
      joined(ascii("8BIM"), be(2, id), new Uint8Array(2), be(4, data.length), data, new Uint8Array(data.length & 1));
    const resources = joined(resource(1005, noise(15, 1)), resource(1036, joined(new Uint8Array(28), jpeg)));
    const file = joined(
      ascii("8BPS"),
      be(2, 1),
      new Uint8Array(6),
      be(2, 3),
      be(4, 30),
      be(4, 40),
      be(2, 8),
      be(2, 3),
      be(4, 0),
      be(4, resources.length),
      resources,
      be(4, 0),
      be(2, 0),
      noise(3600, 2),
    );
    const [place] = (await typeOfHead(file)?.inner?.(memorySource(file))) ?? [];
    expect(Buffer.from(file.subarray(place.offset, place.offset + place.length)).equals(jpeg)).toBe(true);
    for (let cut = 26; cut < file.length - 3600; cut += 7)
      expect(await typeOfHead(file)?.inner?.(memorySource(file.slice(0, cut)))).toBeInstanceOf(Array);
  });
});

/** What ffprobe 5.1.6 says of the samples, in seconds (`ffprobe -show_entries format=duration`). */
const FFPROBE: Record<string, number> = {
  "film.avi": 1,
  "film.flv": 1,
  "film.mkv": 1,
  "film.mp4": 1,
  "film.webm": 1,
  "film.wmv": 1,
  "tone.aac": 1.044865,
  "tone.aiff": 1,
  "tone.flac": 1,
  "tone.mka": 1.003,
  "tone.mp3": 1.044898,
  "tone.opus": 1.0065,
  "tone.wav": 1,
  "tone.wma": 1.021,
  "voice.3gp": 1,
  "voice.mp4": 1,
};

describe("lengths by the header alone", () => {
  const secondsOf = async (content: Uint8Array): Promise<number | null> => {
    const type = typeOfHead(content.subarray(0, 4096));
    return type && (await headerFacts(type, memorySource(content))).seconds;
  };

  test.each(Object.entries(FFPROBE))("%s lasts as long as ffprobe says: %d s", async (name, seconds) => {
    // Opus: ffprobe counts what a decoder leaves out at the beginning (RFC 7845 §4).
    expect(await secondsOf(new Uint8Array(readFileSync(join(folder, name))))).toBeCloseTo(seconds, name === "tone.opus" ? 1 : 2);
  });

  test.each(Object.keys(FFPROBE))("%s: broken bytes never make it fail, and never a length that is none", async (name) => {
    const content = new Uint8Array(readFileSync(join(folder, name)));
    for (let seed = 0; seed < 40; seed++) {
      const broken = content.slice(0, seed % 3 === 0 ? 13 + ((seed * 37) % 400) : undefined);
      for (let index = 0; index < 4; index++)
        broken[(noise(2, seed * 7 + index)[0] * 3 + index * 29) % Math.min(broken.length, 900)] = noise(2, seed + index)[1];
      const seconds = await secondsOf(broken);
      if (seconds !== null) expect(seconds).toSatisfy((value) => Number.isFinite(value) && value > 0 && value < 10 * 366 * 86_400);
    }
  });

  // RFC 4867 §5.3: frames of mode 7 take 32 bytes, of silence 6; each lasts 20 ms (§3.1).
  test("speech of a phone: frames are counted, whatever their mode", async () => {
    const frame = (type: number, bytes: number) => joined(Uint8Array.of((type << 3) | 4), noise(bytes - 1, type));
    const frames = Array.from({ length: 150 }, (_, index) => (index % 3 === 0 ? frame(8, 6) : frame(7, 32)));
    expect(await secondsOf(joined(ascii("#!AMR\n"), ...frames))).toBe(3);
  });

  test("an hour of speech is told by its first frames: a scan that lists does not read all of it", async () => {
    const frame = (type: number, bytes: number) => joined(Uint8Array.of((type << 3) | 4), new Uint8Array(bytes - 1));
    const second = joined(...Array.from({ length: 50 }, (_, index) => (index % 5 === 0 ? frame(8, 6) : frame(7, 32))));
    const bytes = joined(ascii("#!AMR\n"), ...Array.from({ length: 3600 }, () => second));
    let read = 0;
    const watched: ByteSource = {
      ...memorySource(bytes),
      read: async (offset, length) => {
        read += length;
        return bytes.subarray(offset, offset + length);
      },
    };
    const type = typeOfHead(bytes.subarray(0, 4096));
    const seconds = type && (await headerFacts(type, watched)).seconds;
    expect(Math.abs((seconds ?? 0) - 3600)).toBeLessThan(40);
    expect(read).toBeLessThan(200 * 1024);
  });

  // ISO/IEC 14496-12 §8.2.2: version 1 with 64 bits; a length of all ones is not known, and §8.8.2 says that of a film in fragments.
  test("a film in fragments, with long numbers", async () => {
    const be = (...values: number[]) => joined(...values.map((value) => Uint8Array.of(value >>> 24, value >>> 16, value >>> 8, value)));
    const box = (name: string, ...parts: Uint8Array[]) => {
      const held = joined(...parts);
      return joined(be(held.length + 8), ascii(name), held);
    };
    const header = (length: number[]) => box("mvhd", be(0x0100_0000, 0, 0, 0, 0, 600), be(...length), new Uint8Array(80));
    const film = (...held: Uint8Array[]) => joined(box("ftyp", ascii("isom"), be(0)), box("moov", ...held), box("mdat", noise(64)));
    expect(await secondsOf(film(header([1, 0])))).toBeCloseTo(2 ** 32 / 600, 2);
    expect(await secondsOf(film(header([0xffff_ffff, 0xffff_ffff])))).toBeNull();
    expect(await secondsOf(film(header([0, 0]), box("mvex", box("mehd", be(0, 6000)))))).toBe(10);
  });
});
