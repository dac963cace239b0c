import { describe, expect, test } from "vitest";
import { memorySource } from "../../../core/bytes/memory-source.ts";
import { headerFacts, typeOfHead } from "../../../core/filetypes/table.ts";
import { noise } from "../../../test/pictures.ts";
import { viewedFiles } from "../../../test/viewing-card.ts";
import { wavOfAiff } from "./aiff.ts";
import { wavOfAmr } from "./amr.ts";
import { codecsOf } from "./codecs.ts";
import { asMp4 } from "./transport.ts";

const files = viewedFiles();
const sample = (name: string): Uint8Array<ArrayBuffer> => {
  const bytes = files.get(name);
  if (!bytes) throw new Error(`no ${name}`);
  return bytes;
};
const bytesOf = async (blob: Blob) => new Uint8Array(await blob.arrayBuffer());
const wordsOf = async (format: string, film: Blob) => (await codecsOf(format, film)).map(({ words }) => words);
const HEAD = 44;

describe("sounds that browsers play in another form", () => {
  // tone.aiff and tone.wav were made by ffmpeg of one tone: their samples are the same.
  test("AIFF: sample for sample what ffmpeg wrote as WAVE", async () => {
    const made = await bytesOf(wavOfAiff(sample("tone.aiff")));
    const reference = sample("tone.wav");
    expect(Buffer.from(made.subarray(HEAD)).equals(reference.subarray(reference.length - (made.length - HEAD)))).toBe(true);
    // Rate, channels, bits as in ffmpeg's own head: 16 bytes behind "fmt " and its size.
    expect(Buffer.from(made.subarray(20, 36)).equals(reference.subarray(20, 36))).toBe(true);
  });

  test("AIFF-C with the lowest byte first, and of eight bits", async () => {
    const chunk = (name: string, held: Buffer) =>
      Buffer.concat([Buffer.from(name), Buffer.from([0, 0, held.length >> 8, held.length & 255]), held]);
    const rate = Buffer.from([0x40, 0x0b, 0xfa, 0, 0, 0, 0, 0, 0, 0]);
    const common = (bits: number, coded: string) =>
      chunk("COMM", Buffer.concat([Buffer.from([0, 1, 0, 0, 0, 4, 0, bits]), rate, Buffer.from(coded)]));
    const sound = (samples: number[]) => chunk("SSND", Buffer.from([0, 0, 0, 0, 0, 0, 0, 0, ...samples]));
    const form = (kind: string, ...held: Buffer[]) =>
      new Uint8Array(Buffer.concat([Buffer.from("FORM\0\0\0\0"), Buffer.from(kind), ...held]));
    const little = await bytesOf(wavOfAiff(form("AIFC", common(16, "sowt\0\0"), sound([1, 2, 3, 4]))));
    expect([...little.subarray(HEAD)]).toEqual([1, 2, 3, 4]);
    expect(new DataView(little.buffer).getUint32(24, true)).toBe(8000);
    const eight = await bytesOf(wavOfAiff(form("AIFF", common(8, ""), sound([0, 127, 128, 255]))));
    expect([...eight.subarray(HEAD)]).toEqual([128, 255, 0, 127]);
    expect(() => wavOfAiff(form("AIFC", common(16, "ima4\0\0"), sound([1, 2])))).toThrow("coded in ima4");
    expect(() => wavOfAiff(form("AIFF", sound([1, 2])))).toThrow("does not say");
  });

  // The sample is a tone of 440 Hz by opencore-amr's encoder: what is decoded must be that tone.
  test("AMR: a second of the tone that was spoken into it", async () => {
    const made = await bytesOf(wavOfAmr(sample("voice.amr")));
    const samples = new Int16Array(made.slice(HEAD).buffer);
    expect(samples.length).toBe(8000);
    const strength = (hertz: number) => {
      const parts = [Math.cos, Math.sin].map((wave) =>
        samples.subarray(1000).reduce((sum, value, at) => sum + value * wave((2 * Math.PI * hertz * at) / 8000), 0),
      );
      return Math.hypot(...parts);
    };
    for (const other of [220, 330, 600, 880]) expect(strength(440)).toBeGreaterThan(20 * strength(other));
  });

  test("broken ones end in a word or in a sound, and take no more room than they may", async () => {
    for (const [name, make] of [
      ["voice.amr", wavOfAmr],
      ["tone.aiff", wavOfAiff],
    ] as const)
      for (let seed = 0; seed < 30; seed++) {
        const broken = sample(name).slice(0, seed % 3 === 0 ? 20 + seed * 40 : undefined);
        for (let index = 0; index < 6; index++)
          broken[6 + ((noise(2, seed * 9 + index)[0] * (index + 1)) % (broken.length - 6))] = noise(2, seed)[1];
        try {
          expect(make(broken).size).toBeLessThan(broken.length * 60 + 100);
        } catch (cause) {
          expect(cause).toBeInstanceOf(Error);
        }
      }
  });
});

describe("transport streams", () => {
  test.each(["stage.ts", "stage.m2ts"])("%s: its streams as they are, as a film that says how long and how large it is", async (name) => {
    const film = await asMp4(new Blob([sample(name)]));
    const bytes = await bytesOf(film);
    const type = typeOfHead(bytes);
    const facts = type && (await headerFacts(type, memorySource(bytes)));
    expect(facts?.pixels).toEqual({ width: 160, height: 120 });
    expect(facts?.seconds).toBeCloseTo(1, 0);
    expect(await wordsOf("mp4", film)).toEqual(["H.264", name === "stage.ts" ? "AAC" : "AC-3"]);
  });

  test("one of a codec that browsers do not play is refused in words", async () => {
    await expect(asMp4(new Blob([sample("film.ts")]))).rejects.toThrow("not among what browsers play");
  });
});

// What ffprobe 5.1 says of them: hevc; mpeg4 (its letters FMP4); h264; amrwb.
test.each([
  ["hevc.mp4", "mp4", ["HEVC (H.265)"]],
  ["film.avi", "avi", ["FMP4"]],
  ["film.mkv", "mkv", ["H.264"]],
  ["voice.awb", "awb", ["AMR wide-band"]],
  ["stage.m2ts", "ts", ["H.264", "AC-3"]],
  ["cast.csv", "mp4", []],
])("%s is coded in what ffprobe says", async (name, format, codecs) => {
  expect(await wordsOf(format, new Blob([sample(name)]))).toEqual(codecs);
});
