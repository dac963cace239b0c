import { describe, expect, test } from "vitest";
import { seeded } from "../../demo/random.ts";
import { FatCard } from "../../test/fat-card.ts";
import { joined, jpegOf, noise, pngOf } from "../../test/pictures.ts";
import { hashOf, type Outcome, practiceBytes, practiceCard, practiceTruth, scanned } from "../../test/scanning.ts";
import { faultySource } from "../bytes/faulty-source.ts";
import { memorySource } from "../bytes/memory-source.ts";
import { UnusableError } from "../bytes/source.ts";
import type { Find } from "../finds/find.ts";
import { scan } from "./engine.ts";
import { EVERYTHING_THERE } from "./scope.ts";

const all = (outcome: Outcome): Find[] => [...outcome.finds.values()];
const byHash = (outcome: Outcome): Map<string, Find[]> => {
  const hashes = new Map<string, Find[]>();
  for (const find of all(outcome)) hashes.set(find.sha256 ?? "", [...(hashes.get(find.sha256 ?? "") ?? []), find]);
  return hashes;
};
const sameName = (found: string | null, real: string): boolean => found === real || found === `?${real.slice(1)}`;
const nameOf = (path: string): string => path.slice(path.lastIndexOf("/") + 1);

const card = practiceCard();
const truth = practiceTruth();
const deep = await scanned(card);
const hashes = byHash(deep);

describe("the practice card, held against what was really on it", () => {
  test("is the card that the truth was written for", () => {
    expect(hashOf(practiceBytes())).toBe(truth.card.sha256);
  });

  test("every present and binned file is listed with path, state and content", () => {
    for (const file of truth.files.filter(({ state }) => state !== "erased"))
      expect(
        hashes.get(file.sha256)?.map(({ path, state, size }) => ({ path, state, size })),
        file.path,
      ).toEqual([{ path: file.path, state: file.state, size: file.size }]);
    for (const find of all(deep).filter(({ state }) => state === "binned"))
      expect(find.lastDay).toBe(Number(/\.trashed-(\d+)-/.exec(find.path ?? "")?.[1]) * 1000);
  });

  test("every erased picture whose bytes lie in one run comes back identical, named, dated and whole", () => {
    const wanted = truth.files.filter(({ state, inOneRun }) => state === "erased" && inOneRun);
    expect(wanted.length).toBeGreaterThan(30);
    for (const file of wanted) {
      const [find] = hashes.get(file.sha256) ?? [];
      expect(find, file.path).toMatchObject({ state: "erased", condition: "whole", checked: true });
      expect(sameName(find.name, nameOf(file.path)), `${find.name} for ${file.path}`).toBe(true);
      expect(find.modified).not.toBeNull();
    }
  });

  test("nothing erased is called whole that was never there, and nothing present is called erased", () => {
    const real = new Map(truth.files.map((file) => [file.sha256, file]));
    for (const find of all(deep).filter(({ state, condition }) => state === "erased" && condition === "whole"))
      expect(real.get(find.sha256 ?? "")?.state, find.name ?? find.id).toBe("erased");
  });

  test("an item found by its list and by its content is one find with both pieces of evidence", () => {
    expect(new Set(all(deep).map(({ extents }) => extents[0]?.offset ?? -1)).size).toBeGreaterThan(60);
    const lost = all(deep).filter(({ state, condition }) => state === "erased" && condition === "whole");
    for (const find of lost) expect(new Set(find.evidence.map(({ pass }) => pass)), find.name ?? find.id).toContain("listing");
    expect(lost.some(({ evidence }) => new Set(evidence.map(({ pass }) => pass)).size > 1)).toBe(true);
  });

  test("a picture that was written over keeps its preview as a small copy inside it", () => {
    const copies = all(deep).filter(({ condition }) => condition === "small copy");
    expect(copies.length).toBeGreaterThan(0);
    for (const { inside } of copies) expect(deep.finds.get(inside ?? "")?.condition).toMatch(/damaged|remnant/);
  });

  test("a quick scan reads the lists only, and finds a part of the same", async () => {
    const quick = await scanned(card, { depth: "quick" });
    expect(quick.last.bytesRead).toBeLessThan(deep.last.bytesRead);
    for (const find of all(quick))
      expect(deep.finds.get(find.id), find.name ?? find.id).toMatchObject({ sha256: find.sha256, state: find.state });
  });

  test("twice the same scan gives the same finds, whatever batch it is broken off after", async () => {
    expect((await scanned(practiceCard())).finds).toEqual(deep.finds);
    for (const stopAfter of [1, 4, Math.floor(deep.batches / 2), deep.batches - 5, deep.batches - 1]) {
      const half = await scanned(practiceCard(), { stopAfter });
      expect(half.ended).toBe(false);
      const whole = await scanned(practiceCard(), { resume: half });
      expect(whole.ended).toBe(true);
      expect([...whole.finds.keys()].sort(), `after batch ${stopAfter}`).toEqual([...deep.finds.keys()].sort());
      for (const [id, find] of whole.finds)
        expect({ ...find, evidence: new Set(find.evidence.map(({ what, at }) => `${what} ${at}`)) }, id).toEqual({
          ...deep.finds.get(id),
          evidence: new Set(deep.finds.get(id)?.evidence.map(({ what, at }) => `${what} ${at}`)),
        });
    }
  });

  test("stops within one window when it is told to", async () => {
    const stop = new AbortController();
    let after = 0;
    const running = async () => {
      for await (const event of scan(card, { depth: "deep", ...EVERYTHING_THERE }, stop.signal)) {
        if (event.type === "batch" && event.checkpoint.pass === "sweep") {
          if (stop.signal.aborted) after++;
          stop.abort();
        }
      }
    };
    await expect(running()).rejects.toThrow("abort");
    expect(after).toBe(0);
  });
});

test("content that no list speaks of is found by its beginning, as long as it is", async () => {
  const card = new FatCard({ sectorsPerCluster: 8 });
  const [picture, drawing] = [jpegOf(400, 280, 3), pngOf(90, 70, 4)];
  const bytes = card.bytes();
  const noisy = noise(200_000, 12);
  // Free clusters of the data area, far behind the root folder.
  bytes.set(noisy, 9_000_448);
  bytes.set(picture, 10_002_432);
  bytes.set(drawing, 12_001_280);
  card.remove();
  const found = all(await scanned(memorySource(bytes, "card"))).filter(({ condition }) => condition === "whole");
  expect(found.map(({ sha256, size, format, name, state }) => ({ sha256, size, format, name, state }))).toEqual([
    { sha256: hashOf(picture), size: picture.length, format: "jpeg", name: null, state: "erased" },
    { sha256: hashOf(drawing), size: drawing.length, format: "png", name: null, state: "erased" },
  ]);
});

test("a medium without any file system is searched by content, and said to have none", async () => {
  const picture = jpegOf(350, 200, 8);
  const bytes = joined(noise(512 * 400, 1), picture, noise(100_000 - (picture.length % 512), 2));
  const outcome = await scanned(memorySource(bytes, "unknown.img"));
  expect(
    all(outcome)
      .filter(({ condition }) => condition === "whole")
      .map(({ sha256 }) => sha256),
  ).toEqual([hashOf(picture)]);
  expect(outcome.troubles.map(({ what }) => what)).toContain(
    "no file system that can be read begins here: only its content can be searched",
  );
});

test.each([
  ["empty", new Uint8Array(0), "notes.img is empty: there is nothing in it to look for."],
  [
    "a letter",
    new TextEncoder().encode("Dear Ilse, the lantern is on the wagon."),
    "notes.img is no disk image: it holds no partition table and no file system, and at 39 bytes it is too small for one.",
  ],
  [
    "a long text",
    new TextEncoder().encode("Dear Ilse, the lantern is on the wagon, șși încă.\n".repeat(40_000)),
    "notes.img is no disk image: it is a text from its beginning to its end.",
  ],
])("a file that is %s is refused in a plain sentence", async (_, bytes, sentence) => {
  await expect(scanned(memorySource(bytes, "notes.img"))).rejects.toEqual(new UnusableError(sentence));
});

test("bytes that cannot be read are said of the find they belong to; it is not called whole", async () => {
  const card = new FatCard()
    .put("/a.jpg", jpegOf(300, 220, 2))
    .put("/b.jpg", jpegOf(300, 220, 3))
    .erase("/a.jpg")
    .erase("/b.jpg");
  const source = card.source();
  card.remove();
  const sound = all(await scanned(source));
  const victim = sound.find(({ name }) => name === "?.jpg" || name === "?.JPG") ?? sound[0];
  const dead = { start: victim.extents[0].offset + 4096, length: 512, behaviour: "dead" } as const;
  const outcome = await scanned(faultySource(source, [dead], async () => {}));
  const hurt = outcome.finds.get(victim.id);
  expect(hurt?.condition).toBe("damaged");
  expect(hurt?.because).toMatch(/512 of its bytes cannot be read/);
  expect(outcome.last.unreadable.reduce((sum, { length }) => sum + length, 0)).toBe(512);
  expect(all(outcome).filter(({ condition }) => condition === "whole").length).toBe(
    sound.filter(({ condition }) => condition === "whole").length - 1,
  );
});

test("mutated cards neither hang nor crash a scan (25 cards, seed 11)", async () => {
  const card = new FatCard().makeFolder("/DCIM").makeFolder("/DCIM/In");
  for (let number = 0; number < 6; number++)
    card.put(`/DCIM/Long name of a picture ${number}.jpg`, jpegOf(120, 90, number)).put(`/DCIM/In/p${number}.png`, pngOf(40, 30, number));
  card.erase("/DCIM/Long name of a picture 2.jpg").erase("/DCIM/In/p3.png").eraseFolder("/DCIM/In");
  const good = card.bytes();
  card.remove();
  const used = Buffer.from(good).indexOf("DCIM", 0, "latin1") + 200_000;
  const random = seeded(11);
  for (let trial = 0; trial < 25; trial++) {
    const bytes = good.slice(0, trial % 10 === 9 ? Math.floor(random() * used) + 70_000 : good.length);
    // Where structures stand: boot sectors, both tables' beginnings, folders and headers.
    for (let change = 0; change < 1 + random() * 60; change++) {
      const at = random() < 0.3 ? Math.floor(random() * 4096) : Math.floor(random() * Math.min(used, bytes.length));
      bytes[at] = [0, 0xff, 0x01, 0x80, Math.floor(random() * 256)][Math.floor(random() * 5)];
    }
    const outcome = await scanned(memorySource(bytes, `card ${trial}`)).catch((cause) => {
      if (cause instanceof UnusableError) return null;
      throw cause;
    });
    for (const find of outcome ? all(outcome) : [])
      for (const { offset, length } of find.extents) expect(offset + length).toBeLessThanOrEqual(bytes.length);
  }
});
