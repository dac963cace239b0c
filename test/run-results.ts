import { execFileSync, spawnSync } from "node:child_process";
import { existsSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { z } from "zod";
import { memorySource } from "../core/bytes/memory-source.ts";
import { type Graded, grade } from "./grading.ts";
import { DISK_IMAGES, diskBytes, diskTruth } from "./kept-images.ts";
import { scanned } from "./scanning.ts";

/**
 * `npm run results`: how much comes back of what was really on each image. The open set lies beside the project and is graded
 * by the program that came with it; without it, the kept images of test/images are graded by test/grading.ts.
 */
const SHARED = "../shared";
const IMAGES = join(SHARED, "fixtures", "fs");
const GRADER = join(SHARED, "tools", "grade-fs.mjs");

const Row = z.object({
  files: z.number(),
  whole: z.number(),
  identical: z.number(),
  locatable: z.number(),
  located: z.number(),
  nameKnown: z.number(),
  named: z.number(),
  dateKnown: z.number(),
  dated: z.number(),
});
const Report = z.object({
  finds: z.number(),
  classes: z.record(z.string(), Row),
  falseWhole: z.number(),
  partialGradedWhole: z.number(),
  presentShownAsErased: z.number(),
});

const share = (part: number, of: number): string => (of === 0 ? "–" : `${((100 * part) / of).toFixed(1)} %`);
const line = (cells: readonly (string | number)[]): string => `| ${cells.join(" | ")} |\n`;

function openSet(): string {
  let text = "";
  for (const image of readdirSync(IMAGES).filter((name) => name.endsWith(".img.gz"))) {
    const name = image.replace(".img.gz", "");
    const lines = join(tmpdir(), `jubar-results-${name}.jsonl`);
    const { stdout } = spawnSync(process.execPath, ["scripts/jubar.mjs", "scan", join(IMAGES, image)], { maxBuffer: 1 << 30 });
    writeFileSync(lines, stdout);
    const graded = execFileSync(process.execPath, [GRADER, join(IMAGES, `${name}.truth.json`), lines, "--json"], { maxBuffer: 1 << 28 });
    const report = Report.parse(JSON.parse(graded.toString()));
    text += `\n### ${name}\n\n`;
    text += line(["class", "files", "identical", "located", "name", "date"]) + line(["---", "--:", "--:", "--:", "--:", "--:"]);
    for (const [group, row] of Object.entries(report.classes))
      text += line([
        group,
        row.files,
        share(row.identical, row.whole),
        share(row.located, row.locatable),
        share(row.named, row.nameKnown),
        share(row.dated, row.dateKnown),
      ]);
    text += `\n${report.finds} finds; erased and called whole but never there: ${report.falseWhole}; partly overwritten but called whole: ${report.partialGradedWhole}; present but called erased: ${report.presentShownAsErased}.\n`;
  }
  return text;
}

async function keptSet(): Promise<string> {
  let text = `\n${line(["image", "present", "binned", "erased, recorded", "named", "dated", "unrecorded, in one piece", "partial, located", "never there", "present as erased"])}`;
  text += line(["---", ...Array.from({ length: 9 }, () => "--:")]);
  const of = ({ files, missed }: Graded) => `${files - missed.length} of ${files}`;
  for (const name of DISK_IMAGES) {
    const outcome = await scanned(memorySource(diskBytes(name), name));
    const grades = grade([...outcome.finds.values()], diskTruth(name));
    text += line([
      name,
      of(grades.present),
      of(grades.binned),
      of(grades.recorded),
      of(grades.named),
      of(grades.dated),
      of(grades.unrecorded),
      of(grades.partial),
      grades.neverThere.length,
      grades.presentAsErased.length,
    ]);
  }
  return text;
}

const DATABASES = join(SHARED, "fixtures", "db");
const DATABASE_GRADER = join(SHARED, "tools", "grade-db.mjs");
const EXPORT_GRADER = join(SHARED, "tools", "grade-exports.mjs");
const pair = z.tuple([z.number(), z.number()]);
const DatabaseReport = z.object({
  database: z.string(),
  intact: pair,
  headOverwritten: pair,
  partial: pair,
  live: pair,
  erasedWholeClaims: z.number(),
  falseRows: z.number(),
  liveShownAsErased: z.number(),
  doubled: z.number(),
});
/** What a scan of a file of the open set prints, kept in a file. */
function printed(path: string, ...options: string[]): string {
  const lines = join(tmpdir(), "jubar-results.jsonl");
  const { stdout } = spawnSync(process.execPath, ["scripts/jubar.mjs", "scan", path, ...options], { maxBuffer: 1 << 30 });
  writeFileSync(lines, stdout);
  return lines;
}
/** What the stock program's own salvage brings back of a database, by the last line of its account. */
function stock(name: string): number | null {
  const path = join(DATABASES, `${name}.counts.txt`);
  if (!existsSync(path)) return null;
  const told = /"deletedAllValuesRight": (\d+)/.exec(readFileSync(path, "utf8"))?.[1];
  return told === undefined ? null : Number(told);
}

function databaseSet(): string {
  const row = (name: string, one: z.infer<typeof DatabaseReport>, salvage: number | null) =>
    line([
      name,
      one.intact.join(" of "),
      one.headOverwritten.join(" of "),
      one.partial.join(" of "),
      one.live.join(" of "),
      one.erasedWholeClaims,
      one.falseRows,
      one.liveShownAsErased,
      salvage ?? "–",
    ]);
  let text = line([
    "database",
    "deleted, intact",
    "deleted, head overwritten",
    "partial text",
    "live",
    "claimed whole",
    "never there",
    "live shown as erased",
    "`.recover`",
  ]);
  text += line(["---", ...Array.from({ length: 8 }, () => "--:")]);
  const sum = {
    database: "all but raw.bin",
    intact: [0, 0],
    headOverwritten: [0, 0],
    partial: [0, 0],
    live: [0, 0],
    erasedWholeClaims: 0,
    falseRows: 0,
    liveShownAsErased: 0,
    doubled: 0,
  } as z.infer<typeof DatabaseReport>;
  let salvaged = 0;
  for (const truth of readdirSync(DATABASES).filter((name) => name.endsWith(".truth.json.gz"))) {
    const name = truth.replace(".truth.json.gz", "");
    const plain = join(DATABASES, name);
    const lines = printed(existsSync(plain) ? plain : `${plain}.gz`);
    const one = DatabaseReport.parse(
      JSON.parse(
        execFileSync(process.execPath, [DATABASE_GRADER, join(DATABASES, truth), lines, "--json"], { maxBuffer: 1 << 28 }).toString(),
      ),
    );
    text += row(name, one, stock(name));
    if (name === "raw.bin") continue;
    salvaged += stock(name) ?? 0;
    for (const part of ["intact", "headOverwritten", "partial", "live"] as const)
      for (const side of [0, 1] as const) sum[part][side] += one[part][side];
    for (const part of ["erasedWholeClaims", "falseRows", "liveShownAsErased"] as const) sum[part] += one[part];
  }
  return text + row("**all but raw.bin**", sum, salvaged);
}

const PEOPLE_GRADER = join(SHARED, "tools", "grade-people.mjs");
const Tally = z.object({
  live: pair,
  binned: pair.optional(),
  hidden: pair.optional(),
  erased: pair,
  wrong: z.record(z.string(), z.number()),
  printed: z.number(),
  invented: z.number().optional(),
  doubtful: z.number().optional(),
  duplicates: z.number().optional(),
  attachments: pair.optional(),
});
const PeopleReport = z.object({
  kinds: z.record(z.string(), Tally),
  chatsPrinted: z.number(),
  proposals: z.array(z.object({ sureness: z.number() })),
});

/** What is told of people, of every database with an account of them; messengers by their shape alone, without any mapping. */
function peopleSet(): string {
  let text = line([
    "database",
    "what",
    "live",
    "binned",
    "hidden",
    "erased, at the ceiling",
    "attachments",
    "wrong",
    "invented",
    "doubtful",
    "twice",
    "printed",
  ]);
  text += line(["---", "---", ...Array.from({ length: 10 }, () => "--:")]);
  const of = (counted: readonly [number, number] | undefined) => (!counted || counted[1] === 0 ? "–" : counted.join(" of "));
  for (const account of readdirSync(DATABASES).filter((name) => /\.people\.json(\.gz)?$/.test(name))) {
    const name = account.replace(/\.people\.json(\.gz)?$/, "");
    const plain = join(DATABASES, name);
    const lines = printed(existsSync(plain) ? plain : `${plain}.gz`, "--without-mappings");
    const graded = execFileSync(process.execPath, [PEOPLE_GRADER, join(DATABASES, account), lines, "--json"], { maxBuffer: 1 << 28 });
    const { kinds, chatsPrinted, proposals } = PeopleReport.parse(JSON.parse(graded.toString()));
    for (const [kind, one] of Object.entries(kinds)) {
      const wrong = Object.entries(one.wrong)
        .map(([what, times]) => `${what.replace("~", "")} ${times}`)
        .join(", ");
      text += line([
        name,
        kind,
        of(one.live),
        of(one.binned),
        of(one.hidden),
        of(one.erased),
        of(one.attachments),
        wrong || "none",
        one.invented ?? "–",
        one.doubtful ?? "–",
        one.duplicates ?? "–",
        one.printed,
      ]);
    }
    if (Object.keys(kinds).length === 0)
      text += line([
        name,
        "no messenger",
        ...Array.from({ length: 5 }, () => "–"),
        `chats printed ${chatsPrinted}, proposed ${proposals.length}`,
        "–",
        "–",
        "–",
        "–",
      ]);
  }
  return text;
}

function exportSet(): string {
  let text = "";
  for (const truth of readdirSync(DATABASES).filter((name) => /\.(vcf|ics|csv|json|ab|simg)\.truth\.json$/.test(name))) {
    const name = truth.replace(".truth.json", "");
    const lines = printed(join(DATABASES, name), ...(name.includes("encrypted") ? ["--passphrase", "rehearsal-42"] : []));
    const { stdout } = spawnSync(process.execPath, [EXPORT_GRADER, join(DATABASES, truth), lines], { encoding: "utf8" });
    text += `- ${name}: ${stdout.trim().split("\n").join("; ")}\n`;
  }
  return text;
}

const kept = await keptSet();
const open = existsSync(GRADER) && existsSync(IMAGES) ? openSet() : null;
const databases = existsSync(DATABASE_GRADER) && existsSync(DATABASES) ? databaseSet() : "";
const exports = existsSync(EXPORT_GRADER) && existsSync(DATABASES) ? exportSet() : "";
const people = existsSync(PEOPLE_GRADER) && existsSync(DATABASES) ? peopleSet() : "";
if (open === null) console.log(`The open set is not here; the kept images say:\n${kept}`);
else {
  writeFileSync(
    "docs/RESULTS.md",
    `# What comes back\n\nWritten by \`npm run results\`. Nothing here is typed by hand.\n\n## File systems: the open set\n\nDeep scans, graded by the program that comes with the set. Identity is by SHA-256. A dash: not possible there.\n${open}\n## File systems: the images kept in test/images\n\nGraded by test/grading.ts, in \`npm test\` too. They are of the same making, most contents zeroed so that they pack small.\n${kept}
## Rows of databases: the open set

Scans of the databases as they lie there, with log and journal, graded by the program that comes with the set. The last column is what the stock program's own salvage (\`.recover\` of sqlite3 3.52.0) brings back with all values right, by the set's own account. "Never there" counts rows that were called whole and match no row and no older version of one; of raw.bin the account has no older versions.

${databases}
## People: the open set

What is told of conversations, contacts, calls and dates, graded by the program that comes with the set. Messengers are read by what their shape proposes alone (\`--without-mappings\`): no mark says there which messages are in the bin where a column's name is no general word for it.

${people}
## Address books, calendars, exports, backups: the open set

${exports}`,
  );
  console.log("docs/RESULTS.md is written.");
}
