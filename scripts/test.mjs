// npm test: everything that is checked, from a fresh clone on. Ends with a line "N passed, N failed".
import { existsSync, mkdirSync, readFileSync, rmSync } from "node:fs";
import { join } from "node:path";
import { bin, HOME, needPackages, needTools, show } from "./lib/set-up.mjs";

needPackages();
needTools();

const RESULTS = join(HOME, "test-results");
rmSync(RESULTS, { recursive: true, force: true });
mkdirSync(RESULTS);
const unit = join(RESULTS, "unit.json");
const e2e = join(RESULTS, "e2e.json");

/** What a test runner wrote down; a runner that wrote nothing has failed. */
const written = (file, count) => (existsSync(file) ? count(JSON.parse(readFileSync(file, "utf8"))) : { passed: 0, failed: 1 });
const unitCount = ({ numPassedTests, numFailedTests, numFailedTestSuites, numTotalTests }) => ({
  passed: numPassedTests,
  failed: Math.max(numFailedTests, numFailedTestSuites, numTotalTests === 0 ? 1 : 0),
});
const e2eCount = ({ stats, errors }) => ({
  passed: stats.expected,
  failed: stats.unexpected + stats.flaky + (stats.expected + stats.unexpected === 0 ? 1 : errors.length),
});

const STEPS = [
  ...["core", "cli", "server", "standins", "web", "web/worker", "."].map((room) => [
    `types of ${room === "." ? "tests and scripts" : room}`,
    () => show(bin("tsc"), ["--noEmit", "-p", room]),
  ]),
  ["lint", () => show(bin("biome"), ["check", "."])],
  ["import directions", () => show(process.execPath, ["scripts/rooms.mjs"])],
  [
    "unit tests",
    () => show(bin("vitest"), ["run", "--reporter=default", "--reporter=json", `--outputFile.json=${unit}`]),
    () => written(unit, unitCount),
  ],
  ["build", () => show(bin("vite"), ["build", "--logLevel", "warn"])],
  [
    "end-to-end tests",
    () => show(bin("playwright"), ["test"], { env: { ...process.env, PLAYWRIGHT_JSON_OUTPUT_FILE: e2e } }),
    () => written(e2e, e2eCount),
  ],
];

const sum = { passed: 0, failed: 0 };
const broken = [];
for (const [name, step, count] of STEPS) {
  process.stdout.write(`\n── ${name}\n`);
  const status = step();
  const result = count ? count() : { passed: status === 0 ? 1 : 0, failed: status === 0 ? 0 : 1 };
  // A runner that ends badly with no failed test counts as one failure all the same.
  if (status !== 0) result.failed = Math.max(1, result.failed);
  if (result.failed > 0) broken.push(name);
  sum.passed += result.passed;
  sum.failed += result.failed;
}
if (broken.length > 0) process.stdout.write(`\nfailed in: ${broken.join(", ")}\n`);
process.stdout.write(`\n${sum.passed} passed, ${sum.failed} failed\n`);
process.exitCode = sum.failed === 0 ? 0 : 1;
