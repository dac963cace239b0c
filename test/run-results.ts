import { execFileSync, spawnSync } from "node:child_process";
import { existsSync, readdirSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { z } from "zod";
import { memorySource } from "../core/bytes/memory-source.ts";
import { type Graded, grade } from "./grading.ts";
import { DISK_IMAGES, diskBytes, diskTruth } from "./kept-images.ts";
import { scanned } from "./scanning.ts";

/**
 * `npm run results`: how much comes back of what was really on each image. The open set lies beside the project and is graded
 * by the program that came with it; without it, the kept images of test/images are graded by test/grading.ts.
 */
const SHARED = "../shared";
const IMAGES = join(SHARED, "fixtures", "fs");
const GRADER = join(SHARED, "tools", "grade-fs.mjs");

const Row = z.object({
  files: z.number(),
  whole: z.number(),
  identical: z.number(),
  locatable: z.number(),
  located: z.number(),
  nameKnown: z.number(),
  named: z.number(),
  dateKnown: z.number(),
  dated: z.number(),
});
const Report = z.object({
  finds: z.number(),
  classes: z.record(z.string(), Row),
  falseWhole: z.number(),
  partialGradedWhole: z.number(),
  presentShownAsErased: z.number(),
});

const share = (part: number, of: number): string => (of === 0 ? "–" : `${((100 * part) / of).toFixed(1)} %`);
const line = (cells: readonly (string | number)[]): string => `| ${cells.join(" | ")} |\n`;

function openSet(): string {
  let text = "";
  for (const image of readdirSync(IMAGES).filter((name) => name.endsWith(".img.gz"))) {
    const name = image.replace(".img.gz", "");
    const lines = join(tmpdir(), `jubar-results-${name}.jsonl`);
    const { stdout } = spawnSync(process.execPath, ["scripts/jubar.mjs", "scan", join(IMAGES, image)], { maxBuffer: 1 << 30 });
    writeFileSync(lines, stdout);
    const graded = execFileSync(process.execPath, [GRADER, join(IMAGES, `${name}.truth.json`), lines, "--json"], { maxBuffer: 1 << 28 });
    const report = Report.parse(JSON.parse(graded.toString()));
    text += `\n### ${name}\n\n`;
    text += line(["class", "files", "identical", "located", "name", "date"]) + line(["---", "--:", "--:", "--:", "--:", "--:"]);
    for (const [group, row] of Object.entries(report.classes))
      text += line([
        group,
        row.files,
        share(row.identical, row.whole),
        share(row.located, row.locatable),
        share(row.named, row.nameKnown),
        share(row.dated, row.dateKnown),
      ]);
    text += `\n${report.finds} finds; erased and called whole but never there: ${report.falseWhole}; partly overwritten but called whole: ${report.partialGradedWhole}; present but called erased: ${report.presentShownAsErased}.\n`;
  }
  return text;
}

async function keptSet(): Promise<string> {
  let text = `\n${line(["image", "present", "binned", "erased, recorded", "named", "dated", "unrecorded, in one piece", "partial, located", "never there", "present as erased"])}`;
  text += line(["---", ...Array.from({ length: 9 }, () => "--:")]);
  const of = ({ files, missed }: Graded) => `${files - missed.length} of ${files}`;
  for (const name of DISK_IMAGES) {
    const outcome = await scanned(memorySource(diskBytes(name), name));
    const grades = grade([...outcome.finds.values()], diskTruth(name));
    text += line([
      name,
      of(grades.present),
      of(grades.binned),
      of(grades.recorded),
      of(grades.named),
      of(grades.dated),
      of(grades.unrecorded),
      of(grades.partial),
      grades.neverThere.length,
      grades.presentAsErased.length,
    ]);
  }
  return text;
}

const kept = await keptSet();
const open = existsSync(GRADER) && existsSync(IMAGES) ? openSet() : null;
if (open === null) console.log(`The open set is not here; the kept images say:\n${kept}`);
else {
  writeFileSync(
    "docs/RESULTS.md",
    `# What comes back\n\nWritten by \`npm run results\`. Nothing here is typed by hand.\n\n## File systems: the open set\n\nDeep scans, graded by the program that comes with the set. Identity is by SHA-256. A dash: not possible there.\n${open}\n## File systems: the images kept in test/images\n\nGraded by test/grading.ts, in \`npm test\` too. They are of the same making, most contents zeroed so that they pack small.\n${kept}`,
  );
  console.log("docs/RESULTS.md is written.");
}
