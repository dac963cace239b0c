/** `node-pulls.ts ROUNDS`: pulls in a process of its own, as the stock program's are. */
import { measurePulls } from "./pulls.ts";

process.stdout.write(JSON.stringify(await measurePulls(Number(process.argv[2]))));
process.exit(0);
