// Breaks structures of the kept disk images again and again: `npm run mutations -- 20000`.
import { spawnSync } from "node:child_process";

const { status } = spawnSync(process.execPath, ["--import", "tsx", "test/run-mutations.ts", ...process.argv.slice(2)], { stdio: "inherit" });
process.exit(status ?? 1);
