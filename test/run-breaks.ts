import { isDeepStrictEqual } from "node:util";
import { BREAK_MEDIA } from "./break-media.ts";
import { broken, DEEP, live, NEVER, nothingKept, seen } from "./breaks.ts";

/** `npm run breaks [SEEDS] [MEDIUM …]`: breaks scans of each medium, several times in a row each, and fails where one ended otherwise than the unbroken one. */
const [count = "200", ...chosen] = process.argv.slice(2);
let failed = 0;
for (const [name, open] of BREAK_MEDIA.filter(([one]) => chosen.length === 0 || chosen.includes(one))) {
  const source = open();
  const whole = await live(source, DEEP, nothingKept(DEEP), NEVER);
  const wanted = seen(whole.kept);
  let breaks = 0;
  for (let seed = 1; seed <= Number(count); seed++) {
    if (process.stderr.isTTY) process.stderr.write(`\r${name} ${seed} `);
    const outcome = await broken(source, DEEP, seed, whole);
    breaks += outcome.breaks.length;
    const got = seen(outcome.kept);
    if (isDeepStrictEqual(got, wanted)) continue;
    failed++;
    const ids = new Set([...Object.keys(got.finds), ...Object.keys(wanted.finds)]);
    const differ = [...ids].filter((id) => !isDeepStrictEqual(got.finds[id], wanted.finds[id]));
    console.log(
      `${name}, seed ${seed}: ${JSON.stringify(outcome.breaks)}: finds that differ: ${differ.slice(0, 5).join(" ") || "none"}; records ${got.records.length} of ${wanted.records.length}; troubles ${got.troubles.length} of ${wanted.troubles.length}`,
    );
    if (differ[0]) console.log(JSON.stringify(got.finds[differ[0]]), JSON.stringify(wanted.finds[differ[0]]));
  }
  console.log(
    `${name}: ${count} seeds, ${breaks} breaks; ${whole.batches} batches, ${whole.reads} readings; ${whole.kept.finds.size} finds, ${whole.kept.records.length} records`,
  );
}
process.exitCode = failed > 0 ? 1 : 0;
