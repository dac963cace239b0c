import { expect, test } from "./bench.ts";

const FINDS = 50_000;

test("50,000 finds: few elements at any time, every part reachable, filters answer", { tag: "@long" }, async ({ bench }) => {
  const { page } = bench;
  await bench.startPracticeJob();
  await bench.scan();
  // The job's finds are multiplied where they are kept, as a card with 50,000 pictures would leave them.
  await page.evaluate(
    (wanted) =>
      new Promise<void>((done, failed) => {
        const opening = indexedDB.open("jubar");
        opening.onsuccess = () => {
          const write = opening.result.transaction("packs", "readwrite");
          const packs = write.objectStore("packs");
          const all = packs.getAll();
          all.onsuccess = () => {
            const [{ medium, finds }] = all.result;
            const photos = finds.filter((find: { kind: string }) => find.kind === "photo");
            for (let number = 0; number * 500 < wanted; number++)
              packs.put({
                medium,
                number,
                hidden: [],
                finds: Array.from({ length: 500 }, (_, index) => {
                  const at = number * 500 + index;
                  const find = photos[at % photos.length];
                  return { ...find, id: `many${at}`, name: `SISK${at}.JPG`, inside: null, taken: Date.UTC(2025, 0, 1) + at * 600_000 };
                }),
              });
          };
          write.oncomplete = () => done();
          write.onerror = () => failed(write.error);
        };
      }),
    FINDS,
  );
  await page.reload();
  await bench.goTo("Finds");
  await bench.showEverything();
  await expect.poll(() => bench.shown()).toBe(FINDS);
  const wall = page.getByRole("listbox", { name: "Finds" });
  await wall.focus();
  await page.keyboard.press("End");
  await expect(bench.finds.last()).toHaveAttribute("aria-label", /SISK0\.JPG/);
  await page.keyboard.press("Home");
  await expect(bench.finds.first()).toHaveAttribute("aria-label", /SISK49999\.JPG/);

  // Wheel through the wall: what is in sight is there, and no more than that.
  await wall.evaluate(async (element) => {
    for (let step = 0; step < 120; step++) {
      element.scrollTop += 900;
      await new Promise(requestAnimationFrame);
    }
  });
  await expect(bench.finds.first()).toHaveAttribute("aria-label", /SISK\d+\.JPG/);
  expect(await page.locator("*").count()).toBeLessThan(2500);

  await page.keyboard.press("/");
  await page.keyboard.type("sisk4999");
  await expect.poll(() => bench.shown()).toBe(11);
});
