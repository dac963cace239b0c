// npm run mutations [-- CASES IMAGE …]: breaks structures of the kept disk images again and again.
import { needPackages, show } from "./lib/set-up.mjs";

needPackages();
process.exitCode = show(process.execPath, ["--import", "tsx", "test/run-mutations.ts", ...process.argv.slice(2)]);
