// npm test: everything that is checked, from a fresh clone on. Ends with a line "N passed, N failed".
// npm run test:long: what is slow and seldom tells anything new; it ends the same way.
import { spawn } from "node:child_process";
import { existsSync, mkdirSync, readFileSync, rmSync } from "node:fs";
import { join } from "node:path";
import { bin, ENVIRONMENT, HOME, needPackages, needTools, show } from "./lib/set-up.mjs";

needPackages();
needTools();

const LONG = process.argv.includes("--long");
/** For the two runners alone: what `npm run holes` starts must find the usual tests. */
const RUNNERS = LONG ? { ...ENVIRONMENT, JUBAR_LONG: "1" } : ENVIRONMENT;
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

/** The compiler that is several times quicker; the other one's interface is what reads imports (scripts/rooms.mjs). */
const COMPILER = join(HOME, "node_modules/typescript-native/bin/tsc");

/** Types of each room, two at a time: a compiler fills one core. Each room counts as one check. */
async function types() {
  const rooms = ["core", "cli", "server", "standins", "web", "web/worker", "."];
  const sum = { passed: 0, failed: 0 };
  const next = async () => {
    for (let room = rooms.pop(); room !== undefined; room = rooms.pop()) {
      const compiler = spawn(process.execPath, [COMPILER, "--noEmit", "-p", room], { cwd: HOME, stdio: ["ignore", "inherit", "inherit"] });
      const status = await new Promise((done) => compiler.once("exit", done).once("error", () => done(1)));
      sum[status === 0 ? "passed" : "failed"]++;
      if (status !== 0) process.stdout.write(`types of ${room === "." ? "tests and scripts" : room}: wrong\n`);
    }
  };
  await Promise.all([next(), next()]);
  return sum;
}
let typed = { passed: 0, failed: 0 };

/** A script of our own that ends with "N passed, N failed" and a status. */
const script = (name, ...args) => show(process.execPath, ["--import", "tsx", `test/${name}.ts`, ...args]);

const FIRST = [
  [
    "types",
    async () => {
      typed = await types();
      return typed.failed;
    },
    () => typed,
  ],
  ["lint", () => show(bin("biome"), ["check", "."])],
  ["import directions", () => show(process.execPath, ["scripts/rooms.mjs"])],
];
const TESTS = [
  [
    "unit tests",
    () => show(bin("vitest"), ["run", "--reporter=default", "--reporter=json", `--outputFile.json=${unit}`], { env: RUNNERS }),
    () => written(unit, unitCount),
  ],
  ["build", () => show(bin("vite"), ["build", "--logLevel", "warn"])],
  [
    "end-to-end tests",
    () => show(bin("playwright"), ["test"], { env: { ...RUNNERS, PLAYWRIGHT_JSON_OUTPUT_FILE: e2e } }),
    () => written(e2e, e2eCount),
  ],
];
const LAST = [
  ["broken structures, 1000 cases of each kind", () => script("run-mutations", "1000")],
  ["guards taken away", () => script("run-holes")],
];

const sum = { passed: 0, failed: 0 };
const broken = [];
for (const [name, step, count] of LONG ? [...TESTS, ...LAST] : [...FIRST, ...TESTS]) {
  process.stdout.write(`\n── ${name}\n`);
  const began = Date.now();
  const status = await step();
  const result = count ? count() : { passed: status === 0 ? 1 : 0, failed: status === 0 ? 0 : 1 };
  // A runner that ends badly with no failed test counts as one failure all the same.
  if (status !== 0) result.failed = Math.max(1, result.failed);
  if (result.failed > 0) broken.push(name);
  sum.passed += result.passed;
  sum.failed += result.failed;
  process.stdout.write(`${name}: ${Math.round((Date.now() - began) / 1000)} s\n`);
}
if (broken.length > 0) process.stdout.write(`\nfailed in: ${broken.join(", ")}\n`);
process.stdout.write(`\n${sum.passed} passed, ${sum.failed} failed\n`);
process.exitCode = sum.failed === 0 ? 0 : 1;
