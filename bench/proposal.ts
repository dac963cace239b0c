import { execFileSync } from "node:child_process";
import { z } from "zod";

const Proposed = z.object({ seconds: z.number(), rows: z.number(), mebibytes: z.number() });

/** Seconds that the meaning of an unknown database is found in, and those that its rows are read in. */
export const proposalOf = (path: string): z.infer<typeof Proposed> =>
  Proposed.parse(JSON.parse(execFileSync(process.execPath, ["--import", "tsx", "bench/node-proposal.ts", path], { encoding: "utf8" })));
