import { mutateDatabases } from "./database-mutations.ts";
import { type DiskImage, diskBytes } from "./kept-images.ts";
import { mutateImage } from "./mutations.ts";

/** `npm run mutations [CASES] [IMAGE …|databases]`: breaks structures of each file system, of databases and backups, prints what it did, fails where a case failed. */
const [count = "20000", ...chosen] = process.argv.slice(2);
const IMAGES: readonly DiskImage[] = ["sd-formatted", "sd-exfat", "userdata-ext4-unclean", "userdata-f2fs"];
const SEED = 11;
/** No case may take longer, in milliseconds of the processor. */
const LONGEST = 2000;

let failed = 0;
const WHAT = [...IMAGES, "databases"] as const;
for (const what of chosen.length > 0 ? WHAT.filter((name) => chosen.includes(name)) : WHAT) {
  const tell = (done: number) => {
    if (process.stderr.isTTY) process.stderr.write(`\r${what} ${done} `);
  };
  const report = await (what === "databases"
    ? mutateDatabases(Number(count), SEED, tell)
    : mutateImage(diskBytes(what), Number(count), SEED, tell));
  for (const failure of report.failures.slice(0, 20)) console.log(failure);
  failed += report.failures.length + (report.slowest > LONGEST ? 1 : 0);
  const memory = Math.round(process.resourceUsage().maxRSS / 1024);
  console.log(
    `${what}: ${report.cases} cases, ${report.failures.length} failures, slowest ${Math.round(report.slowest)} ms (${report.slowestCase}), memory at most ${memory} MiB`,
  );
}
process.exitCode = failed > 0 ? 1 : 0;
