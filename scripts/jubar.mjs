// npm run -s jubar -- …: the terminal interface, from a fresh clone as well. Paths count from where it was called.
import { spawn } from "node:child_process";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { HOME, needPackages } from "./lib/set-up.mjs";

needPackages();
const loader = pathToFileURL(join(HOME, "node_modules", "tsx", "dist", "esm", "index.mjs")).href;
const work = spawn(process.execPath, ["--import", loader, join(HOME, "cli", "main.ts"), ...process.argv.slice(2)], {
  cwd: process.env.INIT_CWD ?? process.cwd(),
  stdio: "inherit",
});
// Whoever stops this stops the work: it prints what it has and ends. From a keyboard it hears of it twice, and counts once.
for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, () => work.kill(signal));
work.on("exit", (status) => process.exit(status ?? 130));
