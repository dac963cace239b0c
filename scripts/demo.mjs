// npm run demo: from a fresh clone to an open bench with the practice card on it.
import { spawn } from "node:child_process";
import { bin, ENVIRONMENT, fail, HOME, needPackages, show } from "./lib/set-up.mjs";

needPackages();
process.stderr.write("Building…\n");
if (show(bin("vite"), ["build", "--logLevel", "error"]) !== 0) fail("The application could not be built: the reason stands above.");
const server = spawn(
  process.execPath,
  ["--import", "tsx", "server/main.ts", "--media", "demo/practice-media.json", "--practice", ...process.argv.slice(2)],
  {
    cwd: HOME,
    env: ENVIRONMENT,
    stdio: "inherit",
  },
);
for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, () => server.kill(signal));
server.on("exit", (status) => process.exit(status ?? 0));
