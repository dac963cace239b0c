// npm run bench: speed and memory, as ratios within one run. Writes docs/BENCHMARKS.md.
import { needPackages, needTools, show } from "./lib/set-up.mjs";

needPackages();
needTools({ ffmpeg: "ffmpeg" });
process.exitCode = show(process.execPath, ["--import", "tsx", "bench/run.ts"]);
