import { makeZip } from "client-zip";
import { afterAll, expect, test } from "vitest";
import { FatCard } from "../../test/fat-card.ts";
import { jpegOf, noise, pngOf } from "../../test/pictures.ts";
import { hashOf, scanned } from "../../test/scanning.ts";
import type { Find } from "../finds/find.ts";

/** What a scan says of files whose story is known: made, moved, erased and written over by mtools. */
const cards: FatCard[] = [];
afterAll(() => {
  for (const card of cards) card.remove();
});
const card = (): FatCard => {
  const fresh = new FatCard();
  cards.push(fresh);
  return fresh;
};
const finds = async (of: FatCard, depth: "quick" | "deep" = "deep"): Promise<Find[]> => [
  ...(await scanned(of.source(), { depth })).finds.values(),
];
const named = (list: readonly Find[], name: string): Find => {
  const [find, ...others] = list.filter((one) => one.name === name);
  if (!find || others.length > 0) throw new Error(`${name}: ${list.map((one) => one.name).join(", ")}`);
  return find;
};
const words = (find: Find): string => find.evidence.map(({ what }) => what).join(" | ");
const picture = (seed: number) => jpegOf(400, 300, seed);

test("a file that was moved is present and not erased; its old place is evidence", async () => {
  const moved = card().makeFolder("/A").makeFolder("/B").put("/A/Lantern at dusk.jpg", picture(1));
  moved.tool("mmove", "::/A/Lantern at dusk.jpg", "::/B/Lantern at dusk.jpg");
  const list = await finds(moved);
  expect(list.map(({ state, path }) => [state, path])).toEqual([["present", "/B/Lantern at dusk.jpg"]]);
  expect(words(list[0])).toContain("it was here before: /A/Lantern at dusk.jpg");
});

test("a binned file keeps its own name, and says until when", async () => {
  const binned = card().put("/.trashed-1782114800-Crow nine.jpg", picture(1));
  expect(named(await finds(binned), "Crow nine.jpg")).toMatchObject({
    state: "binned",
    condition: "whole",
    lastDay: 1_782_114_800_000,
    path: "/.trashed-1782114800-Crow nine.jpg",
  });
});

/** Puts a file from byte `offset` on (or the first cluster): the hint where free clusters are looked for is set there. */
function putOver(of: FatCard, path: string, content: Uint8Array, offset?: number): void {
  const bytes = of.bytes();
  const boot = Buffer.from(bytes.buffer);
  const dataAt = (boot.readUInt16LE(14) + 2 * boot.readUInt32LE(36)) * 512;
  boot.writeUInt32LE(offset === undefined ? 2 : 2 + (offset - dataAt) / 512, boot.readUInt16LE(48) * 512 + 492);
  of.write(bytes).put(path, content);
}

test("an erased picture whose place another file took is a remnant with nothing to give back", async () => {
  const over = card().makeFolder("/New").put("/old picture.jpg", picture(1)).erase("/old picture.jpg");
  putOver(over, "/New/new.bin", noise(picture(1).length + 5000));
  expect(named(await finds(over), "old picture.jpg")).toMatchObject({
    state: "erased",
    condition: "remnant",
    because: "its place is in use by something else now",
    extents: [],
  });
});

test("an erased picture over whose middle another file lies keeps its beginning, and is not called whole", async () => {
  const over = card().makeFolder("/New").put("/old picture.jpg", picture(1)).erase("/old picture.jpg");
  const [{ extents }] = await finds(over);
  putOver(over, "/New/new.bin", noise(2048, 3), extents[0].offset + 512 * 80);
  const find = named(await finds(over), "old picture.jpg");
  expect(find).toMatchObject({ state: "erased", condition: "damaged", checked: true });
  expect(find.shown).toBeGreaterThan(0.3);
  expect(find.shown).toBeLessThan(0.7);
  // What lies in use is never handed out as a part of it. (mtools begins behind the hint.)
  expect(find.extents[0]).toEqual({ offset: extents[0].offset, length: 512 * 81 });
});

test("an erased picture whose later part was written over and freed again is damaged, with the part that shows", async () => {
  const torn = card().put("/old picture.jpg", picture(1)).erase("/old picture.jpg");
  const [before] = await finds(torn);
  const [{ offset, length }] = before.extents;
  const bytes = torn.bytes();
  bytes.set(noise(4096, 9), offset + Math.floor(length / 2 / 4096) * 4096);
  torn.write(bytes);
  const find = named(await finds(torn), "old picture.jpg");
  expect(find.condition).toBe("damaged");
  expect(find.shown).toBeGreaterThan(0.2);
  expect(find.shown).toBeLessThan(0.8);
});

test("an erased picture whose beginning was overwritten is said to have no beginning", async () => {
  const torn = card().put("/old picture.jpg", picture(1)).erase("/old picture.jpg");
  const [{ extents }] = await finds(torn);
  const bytes = torn.bytes();
  bytes.set(noise(4096, 9), extents[0].offset);
  torn.write(bytes);
  expect(named(await finds(torn), "old picture.jpg")).toMatchObject({
    condition: "remnant",
    because: "no JPEG begins at its place any more: its beginning was overwritten",
  });
});

test("an erased file of a kind that nothing checks is never called whole; what is proven to be another's is taken from it", async () => {
  const text = card().put("/notes for the tour.txt", noise(90_000, 3)).erase("/notes for the tour.txt");
  const [alone] = await finds(text);
  expect(alone).toMatchObject({ kind: "document", condition: "damaged", checked: false, sha256: hashOf(noise(90_000, 3)) });
  // A picture that was written there since, and erased without a trace, owns those bytes now.
  const bytes = text.bytes();
  bytes.set(pngOf(60, 50), alone.extents[0].offset + 8192);
  text.write(bytes);
  const list = await finds(text);
  expect(named(list, "notes for the tour.txt")).toMatchObject({
    condition: "damaged",
    because: `${pngOf(60, 50).length} of its 90000 bytes belong to another item that was checked to its end`,
  });
  expect(list.find(({ format }) => format === "png")).toMatchObject({ condition: "whole", sha256: hashOf(pngOf(60, 50)) });
});

test("a wrong ending does not hide what the bytes are", async () => {
  const odd = card().put("/Lantern.dat", picture(2)).put("/Moonhook.jpg", pngOf(50, 40));
  const list = await finds(odd);
  expect(named(list, "Lantern.dat")).toMatchObject({ kind: "photo", format: "jpeg", condition: "whole" });
  expect(named(list, "Moonhook.jpg")).toMatchObject({ kind: "photo", format: "png", condition: "whole" });
});

test("a picture that is present and broken is said to be broken", async () => {
  const broken = card().put("/cut.jpg", picture(1).slice(0, 9000)).put("/torn.png", pngOf(60, 50).slice(0, 3000));
  const list = await finds(broken);
  expect(named(list, "cut.jpg")).toMatchObject({ state: "present", condition: "damaged", because: "the bytes end here" });
  expect(named(list, "torn.png").condition).toMatch(/damaged|remnant/);
});

test("a quick scan says that it did not walk what is present", async () => {
  const quick = card().put("/Lantern.jpg", picture(1));
  const [find] = await finds(quick, "quick");
  expect(find).toMatchObject({
    condition: "whole",
    checked: false,
    width: 400,
    because: "it is still there; a quick scan does not walk what is present",
  });
});

test("a small picture without a camera's word is a small copy", async () => {
  const small = card().put("/thumb.jpg", jpegOf(160, 120)).erase("/thumb.jpg");
  const [find] = await finds(small);
  expect(find).toMatchObject({ condition: "small copy", because: "whole, but only a small copy (160 × 120)" });
});

test("several erased entries of one place are one find", async () => {
  const twice = card().makeFolder("/A").makeFolder("/B").put("/A/Lantern at dusk.jpg", picture(1));
  twice.tool("mmove", "::/A/Lantern at dusk.jpg", "::/B/Lantern at dusk.jpg");
  twice.erase("/B/Lantern at dusk.jpg");
  const list = (await finds(twice)).filter(({ state }) => state === "erased");
  expect(list.length).toBe(1);
  expect(words(list[0])).toMatch(/another erased entry names it/);
});

test("a file that is there is told by its content, not by its ending; where bytes look so by chance its name says more", async () => {
  const zip = new Uint8Array(
    await new Response(makeZip([{ name: "word/document.xml", input: noise(900, 4), lastModified: new Date(0) }])).arrayBuffer(),
  );
  const list = await finds(
    card()
      .put("/notes.mp3", zip)
      .put("/lantern.bin", pngOf(300, 200))
      .put(
        "/cues.log",
        Uint8Array.from("time,lamp,channel\n".repeat(40), (letter) => letter.charCodeAt(0)),
      )
      .put("/fox.jpg", zip),
  );
  expect(named(list, "notes.mp3")).toMatchObject({ format: "docx", kind: "document", state: "present", condition: "whole" });
  expect(named(list, "lantern.bin")).toMatchObject({ format: "png", kind: "photo", checked: true });
  expect(named(list, "cues.log")).toMatchObject({ format: "txt", kind: "document" });
  // A picture's name over something else that is known: it is that, and no broken picture.
  expect(named(list, "fox.jpg")).toMatchObject({ format: "docx", condition: "whole" });
});
