import { memorySource } from "../core/bytes/memory-source.ts";
import { KINDS } from "../core/finds/find.ts";
import { practiceBytes, scanned } from "../test/scanning.ts";
import { expect, test } from "./bench.ts";

test("a scan goes over what is wanted alone, says what it left, and over the rest when that is asked for", async ({ bench }) => {
  const { page } = bench;
  const { finds } = await scanned(memorySource(practiceBytes(), "card"), { hashed: false });
  const of = (kind: (typeof KINDS)[number]) => [...finds.values()].filter((find) => find.kind === kind).length;
  await bench.startPracticeJob();
  const scope = page.getByRole("group", { name: "Go over" });
  await expect(scope.getByRole("button", { name: "everything" })).toHaveAttribute("aria-pressed", "true");
  await scope.getByRole("button", { name: "photos" }).click();
  await bench.scan();
  const kinds = page.getByRole("list", { name: "Finds by kind" });
  await expect(kinds.getByRole("listitem").filter({ hasText: "photos" })).toContainText(`photos${of("photo")}`);
  await expect(kinds.getByText("not gone over")).toHaveCount(KINDS.length - 1);
  await expect(page.getByRole("link", { name: /^Finds/ })).toContainText(String(of("photo")));
  // What was gone over stays so: more can be asked for, and nothing less.
  await expect(scope.getByRole("button", { name: "photos" })).toBeDisabled();
  await page.reload();
  await expect(page.getByRole("button", { name: "Scan again" })).toBeVisible();
  await scope.getByRole("button", { name: "everything" }).click();
  await page.getByRole("button", { name: "Go over the rest" }).click();
  await expect(page.getByRole("link", { name: /^Finds/ })).toContainText(String(finds.size));
  await expect(bench.progress).toContainText("done in");
  for (const kind of ["document", "archive", "other"] as const) if (of(kind) > 0) await expect(kinds).toContainText(String(of(kind)));
  await expect(kinds.getByText("not gone over")).toHaveCount(0);
  await expect(scope).toHaveCount(0);
});
