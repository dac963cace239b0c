// npm run holes [-- WORDS]: takes what guards Jubar away, piece by piece, and expects a test to fail each time.
import { needPackages, needTools, show } from "./lib/set-up.mjs";

needPackages();
needTools();
process.exitCode = show(process.execPath, ["--import", "tsx", "test/run-holes.ts", ...process.argv.slice(2)]);
