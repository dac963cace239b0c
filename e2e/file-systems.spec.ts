import { mkdirSync, utimesSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { type DiskImage, diskBytes, diskTruth } from "../test/kept-images.ts";
import { jpegOf, noise } from "../test/pictures.ts";
import { hashOf } from "../test/scanning.ts";
import { type Bench, expect, test } from "./bench.ts";

/** Chooses all that is shown and gives it back. @returns hashes of the files that were written, by path */
async function giveBackAll(bench: Bench): Promise<Map<string, string>> {
  const { page } = bench;
  await bench
    .tray()
    .getByRole("button", { name: /^Choose all/ })
    .click();
  await bench.tray().getByRole("link", { name: "Hand over" }).click();
  await page.getByRole("button", { name: "Choose the folder and write" }).click();
  await expect(page.getByRole("region", { name: "Proof" })).toContainText("arrived intact", { timeout: 60_000 });
  const given = await bench.givenBack();
  return new Map(
    [...given].filter(([path]) => !/(sha256sums\.txt|\/summary\.html)$/.test(path)).map(([path, content]) => [path, hashOf(content)]),
  );
}

const IMAGES: readonly (readonly [DiskImage, RegExp])[] = [
  ["userdata-ext4-unclean", /2 · ext4 “data”.*It was not cleanly unmounted: 3 transactions/],
  ["userdata-f2fs", /2 · F2FS “data”/],
  ["sd-formatted", /FAT32/],
];
for (const [name, volume] of IMAGES)
  test(`${name}: from the dropped image to the erased files on disk, byte for byte`, { tag: "@long" }, async ({ bench }) => {
    const { page } = bench;
    await bench.answerFolderPicker();
    await bench.open();
    await bench.drop(bench.file(`${name}.img`, diskBytes(name)));
    await expect(page).toHaveURL(/\/ticket\/\d+\/scan/);
    await bench.scan();
    await expect(page.getByRole("list", { name: "Volumes" })).toContainText(volume);
    await bench.goTo("Finds");
    await bench.chip("erased").click();
    const written = new Set((await giveBackAll(bench)).values());
    const wanted = diskTruth(name).files.filter(({ state, survives, recorded }) => state === "erased" && survives === "intact" && recorded);
    expect(wanted.length).toBeGreaterThan(20);
    expect(wanted.filter(({ sha256 }) => !written.has(sha256)).map(({ path }) => path)).toEqual([]);
  });

test("the folder tree of a phone: an erased folder in its place, and only what lay in it", async ({ bench }) => {
  const { page } = bench;
  await bench.open();
  await bench.drop(bench.file("phone.img", diskBytes("userdata-f2fs")));
  await bench.scan();
  await bench.goTo("Finds");
  await page.getByRole("button", { name: "folders", exact: true }).click();
  const tree = page.getByRole("navigation", { name: "Folders" });
  for (const folder of ["2 · F2FS “data”", "media", "0", "Pictures"])
    await tree.getByRole("button", { name: `Open ${folder}`, exact: true }).click();
  const erased = tree.getByRole("button", { name: /\.thumbnails/ });
  await expect(erased).toHaveAttribute("title", /nothing in it is there any more/);
  const count = Number(/\d+$/.exec((await erased.textContent()) ?? "")?.[0]);
  expect(count).toBeGreaterThan(0);
  await erased.click();
  await expect.poll(() => bench.shown()).toBe(count);
  await bench.finds.first().click();
  await expect(page.getByRole("complementary", { name: "Inspector" })).toContainText("/media/0/Pictures/.thumbnails");
  await expect(page.getByRole("complementary", { name: "Inspector" })).toContainText(/an old node block of inode \d+/);
  await erased.click();
  await expect.poll(() => bench.shown()).toBeGreaterThan(count);
});

test("a folder of a mounted card: what is there and what is in its bin, given back byte for byte, also after a reload", async ({
  bench,
}) => {
  const { page } = bench;
  const root = join(bench.folder, "SISKIN CARD");
  mkdirSync(join(root, "DCIM", "100SISK3"), { recursive: true });
  const files = new Map<string, Uint8Array>([
    ["DCIM/100SISK3/SISK0001.JPG", jpegOf(300, 200, 1)],
    [`DCIM/.trashed-${Math.floor(Date.UTC(2027, 0, 5) / 1000)}-Lantern.jpg`, jpegOf(320, 200, 2)],
    ["letter to Ilse.txt", noise(5000, 3)],
  ]);
  for (const [path, content] of files) {
    writeFileSync(join(root, path), content);
    utimesSync(join(root, path), new Date("2026-05-03T18:20:40Z"), new Date("2026-05-03T18:20:40Z"));
  }
  await bench.answerFolderPicker();
  await bench.open();
  await bench.drop(root);
  await expect(page.getByRole("heading", { name: "SISKIN CARD" })).toBeVisible();
  await bench.scan();
  await page.reload();
  await bench.goTo("Finds");
  await expect(bench.chip("present")).toContainText("2");
  await expect(bench.chip("binned")).toContainText("1");
  expect([...(await giveBackAll(bench)).values()].sort()).toEqual([...files.values()].map(hashOf).sort());
});

test("an empty folder is refused in plain words", async ({ bench }) => {
  const root = join(bench.folder, "nothing");
  mkdirSync(root);
  await bench.open();
  await bench.drop(root);
  await expect(bench.page.getByRole("alert")).toContainText("nothing is a folder without files: there is nothing in it to look for.");
});

test("storage that is noise from end to end is not searched for hours: it is said what that means, on Copy & scan and on Ways in", async ({
  bench,
}) => {
  const { page } = bench;
  await bench.open();
  await bench.drop(bench.file("adopted-card.img", noise(6 * 1024 * 1024, 5)));
  await bench.scan();
  const notice = page.getByRole("region", { name: "Encrypted storage" });
  await expect(notice).toContainText("it is most likely encrypted as a whole");
  await expect(page.getByRole("list", { name: "Finds by kind" }).getByRole("listitem").first()).toContainText("0 erased");
  await bench.goTo("Ways in");
  await expect(notice).toContainText("What helps: the phone itself, unlocked by its owner");
});
