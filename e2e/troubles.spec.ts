import { gzipSync } from "node:zlib";
import { practiceBytes } from "../test/scanning.ts";
import { expect, test } from "./bench.ts";

const refusals: [string, (name: string) => [string, Uint8Array | string], RegExp][] = [
  ["a letter", () => ["letter.txt", "Dear Ilse"], /letter\.txt is no disk image: it holds no partition table and no file system/],
  ["an empty file", () => ["empty.img", ""], /empty\.img is empty: there is nothing in it to look for\./],
  [
    "a packed image that is cut off",
    () => ["card.img.gz", gzipSync(practiceBytes().slice(0, 3_000_000)).subarray(0, 20_000)],
    /card\.img\.gz is not a whole gzip file: it breaks off/,
  ],
];
test("a letter, an empty file and a packed image are refused in plain words, and the bench stays ready", async ({ bench }) => {
  await bench.open();
  for (const [what, make, sentence] of refusals) {
    await bench.drop(bench.file(...make("")));
    await expect(bench.page.getByRole("alert"), what).toHaveText(sentence);
    await expect(bench.page).toHaveURL(/\/$/);
  }
  await bench.drop(bench.card());
  await expect(bench.page).toHaveURL(/\/ticket\//);
});

test("an image that was cut off is said so, and what is there is found", async ({ bench }) => {
  await bench.open();
  await bench.drop(bench.file("cut.img", practiceBytes().slice(0, 12 * 1024 * 1024)));
  await bench.scan();
  await expect(bench.page.getByRole("group", { name: "Troubles" })).toContainText("cut.img is cut off");
  await bench.goTo("Finds");
  await expect.poll(() => bench.shown()).toBeGreaterThan(20);
  // Pictures whose bytes lie beyond the cut are listed, but not called whole.
  await bench.narrow("remnant");
  await expect.poll(() => bench.shown()).toBeGreaterThan(0);
});

test("a ticket that is not there says so, with the way back", async ({ bench }) => {
  await bench.page.goto("/ticket/999/finds");
  await expect(bench.page.getByRole("heading", { name: "There is no such ticket in this browser." })).toBeVisible();
  await bench.page.getByRole("link", { name: "To the bench" }).click();
  await expect(bench.page.getByText("No open job. Begin with a new ticket")).toBeVisible();
});

test("finds that are no longer understood are an error that is said, not a ticket that seems gone", { tag: "@long" }, async ({ bench }) => {
  const { page } = bench;
  await bench.startPracticeJob();
  await bench.scan();
  await page.evaluate(
    () =>
      new Promise<void>((done, failed) => {
        const opening = indexedDB.open("jubar");
        opening.onsuccess = () => {
          const write = opening.result.transaction("packs", "readwrite");
          const packs = write.objectStore("packs");
          const all = packs.getAll();
          all.onsuccess = () => packs.put({ ...all.result[0], finds: [{ id: 7 }] });
          write.oncomplete = () => done();
          write.onerror = () => failed(write.error);
        };
      }),
  );
  await page.reload();
  await expect(page.getByRole("heading", { name: /^This ticket cannot be opened/ })).toBeVisible();
});

test("the pieces of an image, dropped together, and the same image packed, are one medium each with all that is on it; several things are said", async ({
  bench,
}) => {
  const { page } = bench;
  const bytes = practiceBytes();
  const cuts = [0, 17_000_000, 34_000_000, bytes.length];
  const pieces = [1, 2, 3].map((number) => bench.file(`card.img.00${number}`, bytes.subarray(cuts[number - 1], cuts[number])));
  await bench.open();
  await bench.drop(pieces[0], bench.file("letter.vcf", "BEGIN:VCARD"));
  await expect(page.getByRole("alert")).toContainText("2 things were put here at once, and they are not one medium");
  await expect(page).toHaveURL(/\/$/);
  await bench.drop(pieces[2], pieces[0], pieces[1]);
  await bench.scan();
  const kinds = page.getByRole("list", { name: "Finds by kind" });
  const found = await kinds.textContent();
  expect(found).toMatch(/photos[1-9]/);
  await expect(page.getByRole("group", { name: "Troubles" })).toHaveCount(0);
  await bench.open();
  await bench.choose(bench.file("card.img.gz", gzipSync(bytes, { level: 1 })));
  await expect(page).toHaveURL(/\/ticket\/\d+\/scan/);
  await bench.scan();
  await expect(kinds).toHaveText(found ?? "");
  // It opens again by itself: what was unpacked lies in the browser's own storage.
  await page.reload();
  await expect(page.getByRole("status", { name: "Storage" })).toHaveCount(0);
  // A piece that is missing is said.
  await bench.open();
  await bench.drop(pieces[0], pieces[2]);
  await bench.scan();
  await expect(page.getByRole("group", { name: "Troubles" })).toContainText("the piece card.img.002 is missing");
  await bench.open();
  await bench.drop(pieces[0]);
  await bench.scan();
  await expect(page.getByRole("group", { name: "Troubles" })).toContainText("only the first piece of this image is here (card.img.001)");
});
