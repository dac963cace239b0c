// npm run rooms: imports point one way between the rooms of the house.
import { cruise } from "dependency-cruiser";
import { HOME } from "./lib/set-up.mjs";

const TESTS = "\\.test\\.tsx?$";
/** What each room may import besides itself. Rooms of core by their folder. */
const MAY = {
  "core/work": [],
  "core/bytes": ["core/work"],
  "core/medium": ["core/bytes", "core/work"],
  "core/finds": ["core/bytes"],
  "core/filesystems": ["core/bytes", "core/medium"],
  "core/sqlite": ["core/bytes"],
  // Its rooms in their order: what a page is, the files with their pages, what tables look like, what lies in free space, whose each page is; then rows.
  "core/sqlite/format": ["core/bytes"],
  "core/sqlite/files": ["core/bytes", "core/sqlite/format"],
  "core/sqlite/tables": ["core/bytes", "core/sqlite/format"],
  "core/sqlite/free-space": ["core/bytes", "core/sqlite/format", "core/sqlite/files", "core/sqlite/tables"],
  "core/sqlite/survey": ["core/bytes", "core/sqlite/format", "core/sqlite/files", "core/sqlite/tables", "core/sqlite/free-space"],
  "core/backup": ["core/bytes"],
  // Whether a picture in an address book is a small one is told by its header.
  "core/exports": ["core/bytes", "core/finds", "core/filetypes"],
  // What people mean by rows, from whatever database: no scan, no interface.
  "core/stores": ["core/bytes", "core/finds", "core/sqlite", "core/exports", "core/filetypes"],
  "core/archives": ["core/bytes", "core/medium", "core/work", "core/backup", "core/filesystems/tar"],
  // Archives and backups are read elsewhere: how they begin stands there once.
  "core/filetypes": ["core/bytes", "core/medium", "core/filesystems/tar", "core/backup", "core/archives"],
  "core/scan": [
    "core/bytes",
    "core/medium",
    "core/finds",
    "core/filesystems",
    "core/filetypes",
    "core/sqlite",
    "core/archives",
    "core/exports",
    "core/stores",
  ],
  "core/triage": [],
  "core/wants": ["core/finds", "core/triage"],
  "core/phones": ["core/bytes", "core/finds", "core/triage", "core/work"],
  "core/handover": ["core/bytes", "core/finds", "core/filetypes", "core/archives", "core/stores"],
  // The terminal starts practice phones too.
  cli: ["core", "standins"],
  standins: ["core"],
  // The server holds the practice kit's cables.
  server: ["core", "standins"],
  web: ["core"],
  // What is kept knows nothing of who keeps it; workers know no screens. Storage is opened for all of them; who reads asks who knows the finds.
  "web/kept": ["core"],
  "web/worker": ["core", "web/kept", "web/shared/words", "web/shared/waits"],
  "web/worker/storage": ["core", "web/kept", "web/worker/clock", "web/worker/phones/source-port"],
  "web/worker/finds": ["core", "web/kept", "web/worker/clock", "web/worker/storage"],
  "web/worker/scan": ["core", "web/kept", "web/worker/clock", "web/worker/storage"],
  // What decodes what people give: it is handed bytes, and knows of nothing else.
  "web/worker/looking": ["core/work", "core/bytes", "core/filetypes"],
  "web/worker/reading": [
    "core",
    "web/kept",
    "web/worker/clock",
    "web/worker/storage",
    "web/worker/finds",
    "web/worker/looking",
    "web/shared/words",
  ],
  "web/worker/phones": ["core", "web/kept", "web/worker/clock", "web/worker/storage", "web/shared/waits"],
  demo: ["core"],
  // A tab without a browser, for checks of what tabs do.
  test: ["core", "cli", "demo", "standins", "web"],
  bench: ["core", "cli", "demo", "server", "test", "standins", "web"],
  e2e: ["core", "demo", "test", "standins"],
};
/** The heart runs anywhere: nothing of Node, nothing that draws. */
const NOT_IN_CORE = "^(node:|react|dexie|hono|zustand|@hono|comlink|chart)";

/** A rule that no import may break. */
const rule = (name, from, to) => ({ name, severity: "error", from, to });
const forbidden = [
  ...Object.entries(MAY).map(([room, allowed]) =>
    rule(
      `${room} imports only ${[room, ...allowed].join(", ")}`,
      { path: `^${room}/`, pathNot: TESTS },
      {
        path: "^(core|cli|server|web|standins|demo|test|bench|e2e|scripts)/",
        pathNot: [room, ...allowed].map((one) => `^${one}(/|\\.tsx?$)`),
      },
    ),
  ),
  rule("core is free of Node and of the screen", { path: "^core/", pathNot: TESTS }, { path: NOT_IN_CORE }),
  rule("core is free of Node's own modules", { path: "^core/", pathNot: TESTS }, { dependencyTypes: ["core"] }),
  rule("no circles", {}, { circular: true }),
  rule("everything imported is there", {}, { couldNotResolve: true, pathNot: "\\?(worker|url)" }),
  rule("nothing imports a test", { pathNot: TESTS }, { path: TESTS }),
];

process.chdir(HOME);
const { output } = await cruise(["core", "cli", "server", "web", "standins", "demo", "test", "bench", "e2e"], {
  ruleSet: { forbidden },
  validate: true,
  doNotFollow: { path: "node_modules" },
  tsPreCompilationDeps: true,
  tsConfig: { fileName: "tsconfig.base.json" },
  enhancedResolveOptions: {
    exportsFields: ["exports"],
    conditionNames: ["import", "node", "default", "types"],
    extensions: [".ts", ".tsx", ".mjs", ".js", ".css"],
  },
});
const { violations, totalCruised } = output.summary;
for (const { rule: broken, from, to } of violations) process.stdout.write(`${from} → ${to}: ${broken.name}\n`);
if (totalCruised === 0) process.stdout.write("no module was read: the check itself is broken\n");
process.stdout.write(`${totalCruised} modules, ${violations.length} imports in the wrong direction\n`);
process.exitCode = violations.length === 0 && totalCruised > 0 ? 0 : 1;
