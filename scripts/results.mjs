// npm run results: how much comes back of what was really on each image. Writes docs/RESULTS.md where the open set is at hand.
import { needPackages, show } from "./lib/set-up.mjs";

needPackages();
process.exitCode = show(process.execPath, ["--import", "tsx", "test/run-results.ts"]);
