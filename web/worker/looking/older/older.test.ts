import { read as readFile, utils, write } from "cfb";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { mailItem } from "../../../../test/mail-item.ts";
import { viewedFiles } from "../../../../test/viewing-card.ts";
import { textOfOlder } from "./texts.ts";

const files = viewedFiles();
const file = (name: string): Uint8Array => files.get(name) ?? new Uint8Array();
/** The stream of a real file, altered, as a file again. */
function altered(name: string, stream: string, alter: (bytes: number[]) => void): Uint8Array {
  const told: { path: string; bytes: number[] }[] = [];
  const source = readFile(file(name) as unknown as number[], { type: "array" });
  for (const [index, entry] of source.FileIndex.entries())
    if (entry.type === 2) told.push({ path: source.FullPaths[index].replace(/^[^/]*/, ""), bytes: [...(entry.content as number[])] });
  const wanted = told.find(({ path }) => path === `/${stream}`);
  if (!wanted) throw new Error(`${name} has no ${stream}`);
  alter(wanted.bytes);
  const made = utils.cfb_new();
  for (const { path, bytes } of told) utils.cfb_add(made, path, bytes);
  return Uint8Array.from(write(made, { type: "array" }) as unknown as number[]);
}

describe("office files of older forms, written by LibreOffice 7.4: what they say is what they were made of", () => {
  test("a letter: headings, letters of many scripts, rows of a table, what a field shows and not what it tells programs, notes", () => {
    expect(textOfOlder(file("diary.doc"), "doc").split("\n")).toEqual([
      "Stage diary, act three",
      "The moon rig is wet & the lantern hangs — Ilse said “leave it”.",
      "Să nu uităm: café at 18:20, звонок Ане, 月亮.",
      "name\tpart",
      "Ilse\tLantern",
      "Go to the wagon at page 1.",
      "",
      "\tOnly if dry.",
    ]);
  });

  test("sheets: texts that cells share over the ends of records, numbers of each kind", () => {
    const rows = textOfOlder(file("fees.xls"), "xls").split("\n");
    expect(rows).toHaveLength(402);
    expect(rows[0]).toBe("name\tpart\tfee\tday");
    // Days since 1899-12-30, as a sheet keeps them: 1 May 2026 is 46143.
    for (let person = 0; person < 400; person++)
      expect(rows[person + 1]).toBe(`Person ${person}\tLantern ${person % 7}\t${person * 12.5}\t${46143 + (person % 28)}`);
    expect(rows[401]).toBe("Ană Ștefan\tMoon, café\t10000000\t月亮 Анна");
  });

  test("a text that goes on in another record says there anew how wide its letters are ([MS-XLS] §2.5.293)", () => {
    const u16 = (value: number) => [value & 255, value >> 8];
    const record = (type: number, ...bytes: number[]) => [...u16(type), ...u16(bytes.length), ...bytes];
    const wide = (text: string) => [...Buffer.from(text, "utf16le")];
    const book = [
      ...record(0x809, ...u16(0x600), ...u16(0x05)),
      // One text of twelve letters: four of one byte, then eight of two in the record behind it.
      ...record(0xfc, 1, 0, 0, 0, 1, 0, 0, 0, ...u16(12), 0, ...Buffer.from("moon")),
      ...record(0x3c, 1, ...wide(" Анна 月亮")),
      ...record(0x809, ...u16(0x600), ...u16(0x10)),
      ...record(0xfd, ...u16(0), ...u16(0), ...u16(0), 0, 0, 0, 0),
      ...record(0x0a),
    ];
    const file = utils.cfb_new();
    utils.cfb_add(file, "/Workbook", book);
    expect(textOfOlder(Uint8Array.from(write(file, { type: "array" }) as unknown as number[]), "xls")).toBe("moon Анна 月亮");
  });

  test("slides, in their order; nothing of the masters that they are laid out by", () => {
    expect(textOfOlder(file("slides.ppt"), "ppt")).toBe(
      "The moon rig\nwet since Monday\nsecond line\n\nLună plină\nзвонок Ане 月亮\nsecond line",
    );
  });

  test("an e-mail as [MS-OXMSG] §2 lays it out: who, to whom, when, about what, what is attached", () => {
    const texts = {
      "0037": "Lună plină",
      "0C1A": "Ana Dorin",
      "5D01": "ana@teatrul.example",
      "0E04": "Ilse; crew",
      "1000": "The barn is wet.\r\nBring the key.",
    };
    const told = textOfOlder(mailItem(texts, ["plan.pdf", "moon.jpg"], new Date("2026-05-03T18:20:40Z")), "msg");
    expect(told.split("\n\n")).toEqual([
      "From: Ana Dorin <ana@teatrul.example>\nTo: Ilse; crew\nDate: 2026-05-03T18:20:40.000Z\nSubject: Lună plină\nAttached: plan.pdf, moon.jpg",
      "The barn is wet.\r\nBring the key.",
    ]);
  });
});

describe("what cannot be read is said in words", () => {
  test.each([
    ["diary.doc", "doc", "WordDocument", 11],
    ["slides.ppt", "ppt", "Current User", 12],
  ])("%s, encrypted", (name, format, stream, at) => {
    const bytes = altered(name, stream, (old) => {
      if (format === "doc") old[at] |= 1;
      else old.splice(at, 4, 0xdf, 0xc4, 0xd1, 0xf3);
    });
    expect(() => textOfOlder(bytes, format)).toThrow("it is encrypted");
  });

  test("a workbook that says so in its second record (FilePass)", () => {
    const bytes = altered("fees.xls", "Workbook", (book) => {
      const first = 4 + book[2] + book[3] * 256;
      book.splice(first, 2, 0x2f, 0);
    });
    expect(() => textOfOlder(bytes, "xls")).toThrow("it is encrypted");
  });

  test("a stream that is missing is named", () => {
    expect(() => textOfOlder(file("fees.xls"), "doc")).toThrow('no stream "WordDocument"');
    expect(() => textOfOlder(Uint8Array.of(1, 2, 3), "doc")).toThrow();
  });

  test("whatever stands in their streams: text or an error, and an end", () => {
    const kinds = [
      ["diary.doc", "doc", "WordDocument"],
      ["diary.doc", "doc", "1Table"],
      ["fees.xls", "xls", "Workbook"],
      ["slides.ppt", "ppt", "PowerPoint Document"],
    ] as const;
    const change = fc.record({ at: fc.nat(40_000), byte: fc.nat(255) });
    fc.assert(
      fc.property(fc.constantFrom(...kinds), fc.array(change, { minLength: 1, maxLength: 12 }), ([name, format, stream], changes) => {
        const bytes = altered(name, stream, (old) => {
          for (const { at, byte } of changes) old[at % old.length] = byte;
        });
        try {
          expect(textOfOlder(bytes, format).length).toBeLessThan(8_000_000);
        } catch (cause) {
          expect(cause).toBeInstanceOf(Error);
          expect((cause as Error).name).not.toBe("AssertionError");
        }
      }),
      { numRuns: 60 },
    );
  });
});
