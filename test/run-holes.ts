import { spawnSync } from "node:child_process";
import { copyFileSync, mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { z } from "zod";
import { HOLES, type Hole } from "./holes.ts";

/** `npm run holes [WORDS]`: takes one guard after the other away in a scratch copy, and expects a test to fail each time. */

const HOME = join(import.meta.dirname, "..");
const WORDS = process.argv.slice(2).join(" ").toLowerCase();
/** For one run of the tests of a hole, in milliseconds: a patch may well make them hang, which is no pass. */
const PATIENCE = 300_000;

const Report = z.object({ numPassedTests: z.number(), numFailedTests: z.number(), numFailedTestSuites: z.number() });

/** All files of the project as they stand, in a folder of their own; packages are shared. */
function scratchCopy(): string {
  const folder = mkdtempSync(join(tmpdir(), "jubar-holes-"));
  const listed = spawnSync("git", ["ls-files", "-z", "--cached", "--others", "--exclude-standard"], { cwd: HOME, maxBuffer: 1 << 26 });
  for (const file of listed.stdout.toString().split("\0").filter(Boolean)) {
    mkdirSync(dirname(join(folder, file)), { recursive: true });
    copyFileSync(join(HOME, file), join(folder, file));
  }
  symlinkSync(join(HOME, "node_modules"), join(folder, "node_modules"));
  return folder;
}

/** Runs test files. @returns how many tests passed and failed; a run that breaks off or loads nothing is neither */
function run(folder: string, tests: readonly string[]): { passed: number; failed: number } {
  const out = join(folder, "holes.json");
  rmSync(out, { force: true });
  const vitest = join(folder, "node_modules/.bin/vitest");
  const args = ["run", "--reporter=json", `--outputFile.json=${out}`, "--bail=1", ...tests];
  const { error } = spawnSync(vitest, args, { cwd: folder, timeout: PATIENCE, stdio: "ignore" });
  if (error) return { passed: 0, failed: 1 };
  const report = Report.parse(JSON.parse(readFileSync(out, "utf8")));
  return { passed: report.numPassedTests, failed: report.numFailedTests };
}

/** @returns why the tests do not hold this one, or null */
function why(folder: string, hole: Hole): string | null {
  const path = join(folder, hole.file);
  const whole = readFileSync(path, "utf8");
  if (whole.split(hole.from).length !== 2) return `what the patch replaces does not stand in ${hole.file} exactly once`;
  writeFileSync(
    path,
    whole.replace(hole.from, () => hole.to),
  );
  try {
    return run(folder, hole.tests).failed > 0 ? null : `no test fails in ${hole.tests.join(", ")}`;
  } finally {
    writeFileSync(path, whole);
  }
}

const chosen = HOLES.filter(({ name }) => name.toLowerCase().includes(WORDS));
const folder = scratchCopy();
let failed = 0;
try {
  const tests = [...new Set(chosen.flatMap((hole) => hole.tests))];
  const unpatched = run(folder, tests);
  if (unpatched.failed > 0 || unpatched.passed === 0) throw new Error("The tests fail as they stand: mend them first (npm run unit).");
  for (const hole of chosen) {
    const because = why(folder, hole);
    if (because !== null) failed++;
    console.log(because === null ? `held: ${hole.name}` : `HOLE: ${hole.name}: ${because}`);
  }
} finally {
  rmSync(folder, { recursive: true });
}
console.log(`\n${chosen.length - failed} passed, ${failed} failed`);
process.exitCode = failed === 0 && chosen.length > 0 ? 0 : 1;
