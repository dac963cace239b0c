import { type DiskImage, diskBytes } from "./kept-images.ts";
import { mutateImage } from "./mutations.ts";

/** `npm run mutations [CASES] [IMAGE …]`: breaks structures of each file system, prints what it did, fails where a case failed. */
const [count = "20000", ...chosen] = process.argv.slice(2);
const IMAGES: readonly DiskImage[] = ["sd-formatted", "sd-exfat", "userdata-ext4-unclean", "userdata-f2fs"];
const SEED = 11;
/** No case may take longer, in milliseconds of the processor. */
const LONGEST = 2000;

let failed = 0;
for (const image of chosen.length > 0 ? IMAGES.filter((name) => chosen.includes(name)) : IMAGES) {
  const bytes = diskBytes(image);
  const report = await mutateImage(bytes, Number(count), SEED, (done) => {
    if (process.stderr.isTTY) process.stderr.write(`\r${image} ${done} `);
  });
  for (const failure of report.failures.slice(0, 20)) console.log(failure);
  failed += report.failures.length + (report.slowest > LONGEST ? 1 : 0);
  const memory = Math.round(process.resourceUsage().maxRSS / 1024);
  console.log(
    `${image}: ${report.cases} cases, ${report.failures.length} failures, slowest ${Math.round(report.slowest)} ms (${report.slowestCase}), memory at most ${memory} MiB`,
  );
}
process.exitCode = failed > 0 ? 1 : 0;
