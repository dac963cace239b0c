// npm run breaks [-- SEEDS MEDIUM …]: breaks scans of the kept media again and again, and holds their ends against the unbroken ones.
import { needPackages, show } from "./lib/set-up.mjs";

needPackages();
process.exitCode = show(process.execPath, ["--import", "tsx", "test/run-breaks.ts", ...process.argv.slice(2)]);
