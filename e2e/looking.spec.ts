import AxeBuilder from "@axe-core/playwright";
import type { Locator, Page } from "@playwright/test";
import { viewedFiles, viewingCard } from "../test/viewing-card.ts";
import { type Bench, expect, test } from "./bench.ts";

const files = viewedFiles();
/** Pictures that were all made of one: pic.png. */
const PICTURES = [
  "pic.gif",
  "pic.bmp",
  "pic.ico",
  "pic.webp",
  "pic.avif",
  "pic.jxl",
  "pic.heic",
  "pic.tiff",
  "pic.jp2",
  "pic.j2k",
  "opj.jp2",
  "opj.j2k",
];
/** Formats whose coders lose something, colours or edges. */
const NEAR = { exact: 1.5, lossy: 22 };
const EXACT = new Set(["pic.bmp", "pic.ico", "pic.tiff", "opj.jp2"]);
const FILMS = ["film.mp4", "film.webm", "film.mkv", "stage.ts", "stage.m2ts"];
const NOT_PLAYED = {
  "film.wmv": "",
  "film.ogv": "",
  "film.flv": "",
  "tone.wma": "",
  "film.avi": "It is coded in FMP4.",
  "voice.awb": "It is coded in AMR wide-band.",
};
const SOUNDS = ["tone.mp3", "tone.wav", "tone.flac", "tone.opus", "tone.aac", "voice.mp4", "voice.amr", "tone.aiff"];

const search = (page: Page) => page.getByRole("textbox", { name: "Search names and folders" });
const viewer = (page: Page) => page.getByRole("dialog", { name: /, large$/ });

async function scannedCard(bench: Bench): Promise<void> {
  await bench.open();
  await bench.drop(bench.file("viewing.img", viewingCard()));
  await expect(bench.page).toHaveURL(/\/ticket\/\d+\/scan/);
  await bench.scan();
  await bench.goTo("Finds");
  await expect(bench.finds.first()).toBeVisible();
}

/** Finds one thing by its name and opens it. */
async function look({ page }: Bench, name: string): Promise<void> {
  await search(page).fill(name);
  const one = page.getByRole("option", { name: new RegExp(`^${name.replaceAll(".", "\\.")},`) });
  await expect(one).toBeVisible();
  await one.dblclick();
  await expect(viewer(page)).toBeVisible();
}

async function close(page: Page): Promise<void> {
  await page.keyboard.press("Escape");
  await expect(viewer(page)).toHaveCount(0);
}

/** Mean difference of a shown picture from a PNG, both drawn at the PNG's size: 0 to 255 for each colour. */
const differenceFrom = (page: Page, png: Uint8Array): Promise<number> =>
  viewer(page)
    .locator("img")
    .evaluate(async (image, base64) => {
      const shown = image as HTMLImageElement;
      await shown.decode();
      const reference = new Image();
      reference.src = `data:image/png;base64,${base64}`;
      await reference.decode();
      const [width, height] = [reference.naturalWidth, reference.naturalHeight];
      const pixels = [shown, reference].map((one) => {
        const context = new OffscreenCanvas(width, height).getContext("2d");
        context?.drawImage(one, 0, 0, width, height);
        return context?.getImageData(0, 0, width, height).data ?? new Uint8ClampedArray();
      });
      let sum = 0;
      for (let at = 0; at < pixels[0].length; at++) if (at % 4 < 3) sum += Math.abs(pixels[0][at] - pixels[1][at]);
      return sum / (width * height * 3);
    }, Buffer.from(png).toString("base64"));

/** How large a shown picture is, and the colour of its lower right corner. */
const cornerOf = (picture: Locator): Promise<number[]> =>
  picture.evaluate(async (image: HTMLImageElement) => {
    await image.decode();
    const [width, height] = [image.naturalWidth, image.naturalHeight];
    const context = new OffscreenCanvas(width, height).getContext("2d");
    context?.drawImage(image, 0, 0);
    return [width, height, ...[...(context?.getImageData(width - 1, height - 1, 1, 1).data ?? [])].slice(0, 3)];
  });

test("pictures of a dozen formats are shown as what they were made of, on the wall and large", async ({ bench }) => {
  const { page } = bench;
  await scannedCard(bench);
  const original = files.get("pic.png") ?? new Uint8Array();
  for (const name of PICTURES) {
    await look(bench, name);
    await expect(viewer(page).locator("img"), name).toBeVisible();
    const difference = await differenceFrom(page, original);
    expect(difference, name).toBeLessThan(EXACT.has(name) ? NEAR.exact : NEAR.lossy);
    await close(page);
    await expect(bench.finds.first().locator("img"), `${name} on the wall`).toBeVisible();
  }
  // What nothing here draws says so, and can be chosen all the same.
  await look(bench, "pic.psd");
  await expect(viewer(page)).toContainText("PSD is not drawn here");
  await page.keyboard.press("Space");
  await expect(viewer(page).getByRole("button", { name: /In tray/ })).toBeVisible();
  await close(page);
  await expect(bench.tray()).toContainText("1 chosen");
});

test("films and sounds play from where they lie, move in time, and are driven by keys; what is not played says what can be done", async ({
  bench,
}) => {
  const { page } = bench;
  // A film that one has gone on from may still be asked for while its address is taken back.
  bench.provoked.push(/ERR_FILE_NOT_FOUND/);
  await scannedCard(bench);
  const player = viewer(page).locator("video");
  const state = () =>
    player.evaluate((one: HTMLVideoElement) => ({ at: one.currentTime, length: one.duration, paused: one.paused, wide: one.videoWidth }));
  for (const name of [...FILMS, ...SOUNDS]) {
    await look(bench, name);
    await expect.poll(async () => (await state()).length, { message: name }).toBeGreaterThan(0.8);
    expect((await state()).wide > 0, name).toBe(FILMS.includes(name));
    await page.keyboard.press("k");
    await expect.poll(async () => (await state()).at, { message: name }).toBeGreaterThan(0.2);
    await close(page);
  }
  // A camera's stream: its sound is in what browsers do not play, and that is said.
  await look(bench, "stage.m2ts");
  await expect(viewer(page).getByRole("note")).toContainText("Played without its sound: that is coded in AC-3");
  await close(page);
  await look(bench, "film.mp4");
  await expect.poll(async () => (await state()).length).toBeGreaterThan(0.8);
  await page.keyboard.press("ArrowRight");
  await expect.poll(async () => (await state()).at).toBeGreaterThan(0.9);
  await page.keyboard.press("ArrowLeft");
  await expect.poll(async () => (await state()).at).toBe(0);
  await viewer(page).getByRole("combobox", { name: "Speed" }).selectOption("2");
  expect(await player.evaluate((one: HTMLVideoElement) => one.playbackRate)).toBe(2);
  const { violations } = await new AxeBuilder({ page }).include("dialog").analyze();
  expect(violations.filter(({ impact }) => impact === "serious" || impact === "critical")).toEqual([]);
  await close(page);
  // A frame of it stands on the wall.
  await expect(bench.finds.first().locator("img")).toBeVisible();
  for (const [name, coded] of Object.entries(NOT_PLAYED)) {
    await look(bench, name);
    await expect(viewer(page), name).toContainText("not among what browsers play");
    await expect(viewer(page), name).toContainText(coded);
    await expect(viewer(page)).toContainText("handed over as it is");
    await close(page);
  }
});

test("documents are read: pages, lines, tables; and what is hostile in them does nothing", async ({ bench }) => {
  const { page } = bench;
  await scannedCard(bench);
  await look(bench, "programme.pdf");
  await expect(viewer(page).getByRole("img", { name: "Page 1 of programme.pdf" })).toBeVisible();
  // The yellow field of each page is wider than the last one's (demo/pdf.ts): it was really drawn, and it is this page.
  const yellow = () =>
    viewer(page)
      .locator("img")
      .evaluate(async (image) => {
        const shown = image as HTMLImageElement;
        await shown.decode();
        const context = new OffscreenCanvas(420, 595).getContext("2d");
        context?.drawImage(shown, 0, 0, 420, 595);
        const row = context?.getImageData(0, 595 - 350, 420, 1).data ?? new Uint8ClampedArray();
        return Array.from({ length: 420 }, (_, x) => row[x * 4] > 200 && row[x * 4 + 2] < 120).filter(Boolean).length;
      });
  expect(await yellow()).toBeGreaterThan(95);
  expect(await yellow()).toBeLessThan(105);
  await viewer(page).getByRole("button", { name: "Next page" }).click();
  await expect(viewer(page)).toContainText("page 2 of 3");
  await expect(viewer(page).getByRole("img", { name: "Page 2 of programme.pdf" })).toBeVisible();
  await expect.poll(yellow).toBeGreaterThan(155);
  // Its words are found in all pages, whatever page is shown; the next one is gone to.
  const wordsIn = viewer(page).getByRole("textbox", { name: "Words in it" });
  await wordsIn.fill("LUMINA teatrul");
  await wordsIn.press("Enter");
  await expect(viewer(page)).toContainText("on page 1");
  await expect(viewer(page)).toContainText("page 1 of 3");
  await wordsIn.fill("e");
  await wordsIn.press("Enter");
  await expect(viewer(page)).toContainText("on page 1, 2, 3");
  await wordsIn.press("Enter");
  await expect(viewer(page)).toContainText("page 2 of 3");
  await wordsIn.fill("lantern");
  await wordsIn.press("Enter");
  await expect(viewer(page)).toContainText("not on any page");
  await close(page);

  await look(bench, "cast.csv");
  await expect(viewer(page).getByRole("cell", { name: "Moon, the" })).toBeVisible();
  await expect(viewer(page).getByRole("cell", { name: "<b>Crocodile</b>" })).toBeVisible();
  await close(page);
  await look(bench, "letter.txt");
  await expect(viewer(page).getByRole("region", { name: "Text of letter.txt" })).toContainText("the barn is still wet.");
  await close(page);
  await expect(bench.finds.first()).toContainText("Dear Ilse");
  await look(bench, "stage.json");
  await expect(viewer(page)).toContainText('"lamps": 40');
  await close(page);
  for (const [name, words, pictures = 0] of [
    ["part.docx", "Ilse plays the lantern."],
    ["wagon.eml", "Subject: The key"],
    ["diary.docx", "Stage diary, act three", 1],
    ["diary.doc", "Stage diary, act three", 1],
    ["fees.xls", "Person 0"],
    ["slides.ppt", "wet since Monday", 1],
  ] as const) {
    await look(bench, name);
    await expect(viewer(page).getByRole("region", { name: `Text of ${name}` })).toContainText(words);
    // The picture that stands in it: 64 × 48, red growing to the right and green downwards.
    const drawn = viewer(page)
      .getByRole("region", { name: `Pictures in ${name}` })
      .getByRole("img");
    await expect(drawn, name).toHaveCount(pictures);
    if (pictures) expect(await cornerOf(drawn), name).toEqual([64, 48, 63 * 4, 47 * 5, 120]);
    await close(page);
    await expect(bench.finds.first()).toContainText(words);
  }
  await look(bench, "page.html");
  const frame = viewer(page).locator("iframe");
  await expect(frame).toHaveAttribute("sandbox", "");
  await expect(viewer(page).frameLocator("iframe").getByText("The crocodile enters.")).toBeVisible();
  await close(page);
  await expect(bench.finds.first()).toContainText("The crocodile enters.");
  expect(await page.title()).not.toContain("stolen");

  // The drawing is drawn; its script did not run, and nothing was asked for (the bench fails on any request that leaves this machine).
  await look(bench, "lantern.svg");
  await expect(viewer(page).locator("img")).toBeVisible();
  const middle = await viewer(page)
    .locator("img")
    .evaluate(async (image) => {
      await (image as HTMLImageElement).decode();
      const context = new OffscreenCanvas(320, 200).getContext("2d");
      context?.drawImage(image as HTMLImageElement, 0, 0, 320, 200);
      return [...(context?.getImageData(160, 100, 1, 1).data ?? []), ...(context?.getImageData(2, 100, 1, 1).data ?? [])];
    });
  expect(middle).toEqual([0xf4, 0xb8, 0x3a, 255, 0x0e, 0x54, 0x59, 255]);
  expect(await page.title()).not.toContain("stolen");
  await close(page);
  await look(bench, "nested.svg");
  await expect(viewer(page)).toContainText("made to cost time");
});

test("archives are lists that open further; a font is shown by its letters, a broken one by a word", { tag: "@long" }, async ({
  bench,
}) => {
  const { page } = bench;
  await scannedCard(bench);
  for (const [name, path] of [
    ["doc.zip", "/doc.txt"],
    ["doc.tar", "/doc.txt"],
  ]) {
    await look(bench, name);
    const list = viewer(page).getByRole("group", { name: `Contents of ${name}` });
    await expect(list.getByRole("listitem")).toHaveCount(2);
    await expect(list).toContainText(path);
    await viewer(page)
      .getByRole("button", { name: `Open ${path}` })
      .click();
    // What it opens is the file in it, which holds no text, whatever its name says.
    await expect(page.getByRole("dialog", { name: "doc.txt, large" })).toContainText("8.0 KB");
    await expect(viewer(page)).toContainText("It is no text");
    await close(page);
  }
  await look(bench, "doc.7z");
  await expect(viewer(page)).toContainText("7Z is not opened here");
  await close(page);
  await look(bench, "letters.woff2");
  const letters = viewer(page).getByRole("img", { name: "Letters of letters.woff2" });
  await expect(letters).toBeVisible();
  // Every letter is as wide as the next in this font, and in no other that would stand in for it.
  const [narrow, wide] = await letters.evaluate((shown) => {
    const { fontFamily } = getComputedStyle(shown.querySelector("p") as Element);
    const context = new OffscreenCanvas(10, 10).getContext("2d");
    if (context) context.font = `40px ${fontFamily}`;
    return ["iiii", "WWWW"].map((text) => context?.measureText(text).width ?? 0);
  });
  expect(narrow).toBeGreaterThan(0);
  expect(narrow).toBeCloseTo(wide, 1);
  await close(page);
  await look(bench, "broken.ttf");
  bench.provoked.push(/OTS parsing error|Failed to decode downloaded font/);
  await expect(viewer(page)).toContainText("does not take it for a sound font");
});

test("the viewer: next and previous as on the wall, turned, enlarged, side by side, chosen, and back where one was", async ({ bench }) => {
  const { page } = bench;
  await scannedCard(bench);
  await search(page).fill("pic.");
  await expect.poll(() => bench.shown()).toBe(12);
  const names = async () => (await viewer(page).getByRole("heading", { level: 2 }).first().textContent()) ?? "";
  await bench.finds.first().click();
  await page.keyboard.press("Enter");
  const first = await names();
  await page.keyboard.press("ArrowRight");
  await expect(viewer(page)).toContainText("2 of 12");
  const second = await names();
  expect(second).not.toBe(first);
  await page.keyboard.press("s");
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("s");
  await page.keyboard.press("PageDown");
  await expect(viewer(page).locator("figure")).toHaveCount(3);
  await viewer(page).locator("figure").first().getByRole("button", { name: "Choose" }).click();
  await expect(viewer(page).locator("figure").first()).toContainText("In tray");
  const { violations } = await new AxeBuilder({ page }).include("dialog").analyze();
  expect(violations.filter(({ impact }) => impact === "serious" || impact === "critical")).toEqual([]);
  await close(page);
  await expect(bench.tray()).toContainText("1 chosen");

  // Where one was: what was looked at last is what the wall has in hand.
  await page.keyboard.press("Enter");
  await expect(viewer(page)).toBeVisible();
  const picture = viewer(page).locator("img");
  const sides = () =>
    picture.evaluate((one) => one.getBoundingClientRect()).then(({ width, height }) => [Math.round(width), Math.round(height)]);
  await expect.poll(async () => (await sides())[0]).toBe(256);
  await page.keyboard.press("r");
  await expect.poll(sides).toEqual([192, 256]);
  await page.keyboard.press("1");
  await expect.poll(sides).toEqual([48, 64]);
  await page.keyboard.press("0");
  await expect.poll(sides).toEqual([256, 192]);
  await page.mouse.move(480, 420);
  await page.mouse.wheel(0, -240);
  await expect.poll(async () => (await sides())[0]).toBeGreaterThan(290);
});

test("a bomb of pixels in each format that is decoded is told by a word, and what is beside it is shown", { tag: "@long" }, async ({
  bench,
}) => {
  const { page } = bench;
  // Width and height in the header of each are made 40,000: nothing behind it is of that size.
  const card = viewingCard();
  const whole = Buffer.from(card);
  const patch = (name: string, at: number, ...bytes: number[]) => {
    const content = files.get(name) ?? new Uint8Array();
    expect(whole.indexOf(content), name).toBeGreaterThan(0);
    // Two names may hold the same bytes.
    for (let place = whole.indexOf(content); place >= 0; place = whole.indexOf(content, place + 1)) card.set(bytes, place + at);
  };
  const BE = [0, 0, 0x9c, 0x40];
  patch("pic.gif", 6, 0x40, 0x9c, 0x40, 0x9c);
  patch("pic.bmp", 18, 0x40, 0x9c, 0, 0, 0x40, 0x9c, 0, 0);
  patch("pic.jp2", Buffer.from(files.get("pic.jp2") ?? []).indexOf("ihdr") + 4, ...BE, ...BE);
  const heic = Buffer.from(files.get("pic.heic") ?? []);
  for (let at = heic.indexOf("ispe"); at >= 0; at = heic.indexOf("ispe", at + 1)) patch("pic.heic", at + 8, ...BE, ...BE);
  await bench.open();
  await bench.drop(bench.file("bombs.img", card));
  await bench.scan();
  await bench.goTo("Finds");
  for (const name of ["pic.gif", "pic.bmp", "pic.jp2", "pic.heic"]) {
    await look(bench, name);
    await expect(viewer(page), name).toContainText("too large to be shown here: 1,600 million pixels");
    await close(page);
  }
  await look(bench, "pic.avif");
  expect(await differenceFrom(page, files.get("pic.png") ?? new Uint8Array())).toBeLessThan(NEAR.lossy);
});
