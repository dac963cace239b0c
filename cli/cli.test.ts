import { execFileSync, spawn, spawnSync } from "node:child_process";
import { once } from "node:events";
import { copyFileSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, readlinkSync, renameSync, rmSync, writeFileSync } from "node:fs";
import { connect } from "node:net";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";
import { gunzipSync, gzipSync } from "node:zlib";
import { afterAll, expect, test } from "vitest";
import { z } from "zod";
import { packBackup } from "../demo/pack-backup.ts";
import { FatCard } from "../test/fat-card.ts";
import { packedCli } from "../test/packed-cli.ts";
import { jpegOf, noise } from "../test/pictures.ts";
import { hashOf } from "../test/scanning.ts";

const folder = mkdtempSync(join(tmpdir(), "jubar-cli-"));
const picture = jpegOf(400, 300, 2);
const card = new FatCard()
  .makeFolder("/DCIM")
  .put("/DCIM/Lantern, first night.jpg", picture)
  .put("/DCIM/kept.jpg", jpegOf(350, 260, 3));
card.put("/notes.txt", new TextEncoder().encode("Nine Crows")).erase("/DCIM/Lantern, first night.jpg");
const image = join(folder, "card.img");
writeFileSync(image, card.bytes());
card.remove();
const packed = await packedCli();
afterAll(() => {
  rmSync(folder, { recursive: true });
  rmSync(packed.folder, { recursive: true });
});

/** Calls Jubar from another folder. */
const jubar = (...args: string[]) => called(packed.file, ...args);
/** As a technician calls it: from its sources. */
const SCRIPT = resolve("scripts/jubar.mjs");
function called(program: string, ...args: string[]) {
  const { status, stdout, stderr } = spawnSync(process.execPath, [program, ...args], {
    cwd: folder,
    env: { ...process.env, INIT_CWD: folder },
    encoding: "utf8",
    maxBuffer: 64 * 1024 * 1024,
  });
  return { status, stderr, lines: stdout.split("\n").filter(Boolean) };
}
const Line = z.discriminatedUnion("type", [
  z.object({
    type: z.literal("find"),
    id: z.string(),
    kind: z.string(),
    format: z.string(),
    state: z.enum(["present", "binned", "erased"]),
    condition: z.enum(["whole", "damaged", "small copy", "remnant"]),
    name: z.string().nullable(),
    path: z.string().nullable(),
    size: z.number(),
    modified: z.iso.datetime().nullable(),
    taken: z.iso.datetime().nullable(),
    sha256: z
      .string()
      .regex(/^[0-9a-f]{64}$/)
      .nullable(),
    extents: z.array(z.tuple([z.number(), z.number()])),
    volume: z.number().nullable(),
    inside: z.string().nullable(),
    evidence: z.array(z.object({ pass: z.string(), what: z.string(), at: z.number() })).min(1),
  }),
  z.strictObject({
    type: z.literal("record"),
    id: z.string(),
    kind: z.enum(["contact", "message", "call", "event", "media", "chat", "conversation", "row"]),
    state: z.enum(["present", "binned", "erased", "hidden", "unclear"]),
    condition: z.enum(["whole", "damaged", "remnant"]),
    database: z.string().nullable(),
    // What people mean by rows is of no table: of which rows it was made stands there.
    table: z.string().nullable().default(null),
    rowid: z.number().nullable().default(null),
    columns: z
      .record(
        z.string(),
        z.union([
          z.string(),
          z.number(),
          z.literal([Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY]),
          z.null(),
          z.object({ blob: z.string().regex(/^([0-9a-f]{2})*$/) }),
        ]),
      )
      .default({}),
    store: z.string().optional(),
    rows: z.array(z.string()).optional(),
    values: z.record(z.string(), z.unknown()).optional(),
    evidence: z.array(
      z.strictObject({
        pass: z.literal("databases"),
        what: z.enum(["live", "freelist page", "freeblock", "unallocated", "wal", "journal", "stray page", "an erased file"]),
        page: z.number().nullable(),
        file: z.enum(["main", "wal", "journal"]),
        at: z.number(),
      }),
    ),
    versions: z.array(z.object({ columns: z.record(z.string(), z.unknown()) })).optional(),
  }),
  z.strictObject({
    type: z.literal("volume"),
    index: z.number(),
    filesystem: z.string(),
    start: z.number(),
    length: z.number(),
    label: z.string().nullable(),
    encrypted: z.boolean(),
    used: z.number(),
    free: z.number(),
  }),
  z.strictObject({
    type: z.literal("proposal"),
    database: z.string().nullable(),
    table: z.string(),
    why: z.string(),
    sureness: z.number().min(0).max(1),
  }),
  z.strictObject({ type: z.literal("trouble"), what: z.string(), at: z.number(), length: z.number() }),
  z.strictObject({
    type: z.literal("summary"),
    seconds: z.number(),
    bytes: z.number(),
    bytesRead: z.number(),
    unreadable: z.array(z.tuple([z.number(), z.number()])),
    finds: z.record(z.string(), z.record(z.string(), z.number())),
  }),
]);
const parsed = (lines: readonly string[]) => lines.map((line) => Line.parse(JSON.parse(line)));
const findsOf = (lines: readonly string[]) => parsed(lines).flatMap((line) => (line.type === "find" ? [line] : []));

test("scan prints lines of the promised shapes, the summary last", () => {
  const { status, lines, stderr } = called(SCRIPT, "scan", "card.img");
  expect({ status, stderr }).toEqual({ status: 0, stderr: "" });
  const told = parsed(lines);
  expect(told.at(-1)).toMatchObject({
    type: "summary",
    bytes: 34 * 1024 * 1024,
    unreadable: [],
    finds: { photo: { present: 1, erased: 1 } },
  });
  expect(told.filter(({ type }) => type === "volume")).toEqual([
    expect.objectContaining({ index: 0, filesystem: "FAT32", start: 0, label: "TEST CARD", encrypted: false }),
  ]);
  expect(findsOf(lines).find(({ state }) => state === "erased")).toMatchObject({
    kind: "photo",
    format: "jpeg",
    condition: "whole",
    name: "Lantern, first night.jpg",
    path: "/DCIM/Lantern, first night.jpg",
    modified: "2026-05-03T18:20:40.000Z",
    sha256: hashOf(picture),
    size: picture.length,
  });
});

test("packed and split images give the same finds as the raw one", () => {
  const bytes = readFileSync(image);
  writeFileSync(join(folder, "packed.img.gz"), gzipSync(bytes));
  writeFileSync(join(folder, "split.001"), bytes.subarray(0, 5_000_003));
  writeFileSync(join(folder, "split.002"), bytes.subarray(5_000_003));
  const raw = findsOf(jubar("scan", "card.img").lines);
  for (const name of ["packed.img.gz", "split.001"]) expect(findsOf(jubar("scan", name).lines)).toEqual(raw);
  // By the stock xz and zip programs (XZ Utils; Info-ZIP).
  writeFileSync(join(folder, "packed.img.xz"), execFileSync("xz", ["--stdout"], { input: bytes, maxBuffer: 1 << 28 }));
  execFileSync("zip", ["-q", "one.zip", "card.img"], { cwd: folder });
  execFileSync("zip", ["-q", "set.zip", "split.001", "split.002"], { cwd: folder });
  for (const name of ["packed.img.xz", "one.zip", "set.zip"]) expect(findsOf(jubar("scan", name).lines), name).toEqual(raw);
});

test("a piece that is missing is said and never read as anything; a first piece alone is said, and another one is refused", () => {
  const bytes = readFileSync(image);
  const cut = 4 * 1024 * 1024;
  for (const [number, from] of [0, cut, 2 * cut].entries())
    writeFileSync(join(folder, `torn.00${number + 1}`), bytes.subarray(from, number === 2 ? bytes.length : from + cut));
  rmSync(join(folder, "torn.002"));
  const { lines } = jubar("scan", "torn.001");
  const troubles = parsed(lines).filter(({ type }) => type === "trouble");
  expect(troubles).toContainEqual({ type: "trouble", what: "the piece torn.002 is missing: nothing of it is read", at: cut, length: cut });
  expect(parsed(lines).at(-1)).toMatchObject({ type: "summary", bytes: bytes.length });
  rmSync(join(folder, "torn.003"));
  expect(jubar("scan", "torn.001").lines.join()).toContain("only the first piece of this image is here (torn.001)");
  renameSync(join(folder, "torn.001"), join(folder, "torn.002"));
  const alone = jubar("scan", "torn.002");
  expect({ status: alone.status, lines: alone.lines }).toEqual({ status: 2, lines: [] });
  expect(alone.stderr).toMatch(/^torn\.001 is missing: without the first piece/);
});

test("kinds and faults are taken as they are given", () => {
  const documents = findsOf(jubar("scan", "card.img", "--kinds", "document", "--depth", "quick").lines);
  expect(documents.map(({ name }) => name)).toEqual(["notes.txt"]);
  const [first] = findsOf(jubar("scan", "card.img").lines).filter(({ state }) => state === "erased");
  const start = first.extents[0][0];
  writeFileSync(join(folder, "faults.json"), JSON.stringify({ ranges: [{ start, length: 512, behaviour: "dead" }] }));
  const { lines } = jubar("scan", "card.img", "--faults", "faults.json");
  expect(parsed(lines).at(-1)).toMatchObject({ unreadable: [[start, 512]] });
  expect(findsOf(lines).find(({ id }) => id === first.id)?.condition).not.toBe("whole");
});

test.each([
  [["scan", "nothing.img"], "There is no file nothing.img."],
  [["scan", "empty.img"], "empty.img is empty: there is nothing in it to look for."],
  [["scan", "letter.txt"], /^letter\.txt is no disk image/],
  [["scan", "broken.gz"], /^broken\.gz is not a whole gzip file/],
  [["scan", "card.img", "--depth", "deeper"], /depth/],
  [["scan", "card.img", "--faults", "letter.txt"], "letter.txt is no list of faults."],
  [["scan"], "Name the image that is to be scanned."],
  [["save", "card.img"], /folder to save into/],
  [["fly"], /^usage:/],
])("jubar %j: exit 2 and one sentence", (args, sentence) => {
  writeFileSync(join(folder, "empty.img"), "");
  writeFileSync(join(folder, "letter.txt"), "Dear Ilse");
  writeFileSync(join(folder, "broken.gz"), gzipSync(noise(5000)).subarray(0, 700));
  const { status, stderr, lines } = jubar(...args);
  expect({ status, lines }).toEqual({ status: 2, lines: [] });
  expect(stderr.trim()).toMatch(sentence);
  if (args[0] !== "fly") expect(stderr.trim().split("\n").length).toBe(1);
});

test("save writes what was chosen byte for byte, over nothing that is there; sha256sum agrees", () => {
  mkdirSync(join(folder, "out", "photos"), { recursive: true });
  writeFileSync(join(folder, "out", "photos", "Lantern, first night.jpg"), "somebody's own");
  const { status, lines } = jubar("save", "card.img", "--to", "out", "--state", "erased", "--kinds", "photo");
  expect(status).toBe(0);
  expect(lines.map((line) => JSON.parse(line))).toEqual([
    { type: "written", path: "photos/Lantern, first night (2).jpg", outcome: "equal", because: null, sha256: hashOf(picture) },
  ]);
  expect(readdirSync(join(folder, "out", "photos")).sort()).toEqual(["Lantern, first night (2).jpg", "Lantern, first night.jpg"]);
  expect(readFileSync(join(folder, "out", "photos", "Lantern, first night (2).jpg")).equals(picture)).toBe(true);
  expect(readFileSync(join(folder, "out", "photos", "Lantern, first night.jpg"), "utf8")).toBe("somebody's own");
  expect(execFileSync("sha256sum", ["-c", "sha256sums.txt"], { cwd: join(folder, "out"), encoding: "utf8" })).toContain(": OK");
});

// A device of the Linux kernel that is always full (full(4)).
test("finds that cannot be printed are one sentence, and no success", () => {
  const { status, stderr } = spawnSync("sh", ["-c", `exec "$0" "$1" scan "$2" > /dev/full`, process.execPath, packed.file, image], {
    encoding: "utf8",
  });
  expect([status, stderr.trim()]).toEqual([2, "What was found cannot be written: there is no room left where it goes."]);
});

test("a reader that goes away ends the printing quietly", () => {
  const { stdout, stderr } = spawnSync(
    "bash",
    ["-c", `"$0" "$1" scan "$2" | head -n 1; echo "\${PIPESTATUS[0]}"`, process.execPath, packed.file, image],
    {
      encoding: "utf8",
    },
  );
  const [line, status] = stdout.trim().split("\n");
  expect(JSON.parse(line)).toHaveProperty("type");
  expect(status).toBe("0");
  expect(stderr).not.toMatch(/EPIPE|at .*\.ts/);
});

/** A small disk in memory is the tests' own where they may make one (namespaces(7)). */
const mayMount = spawnSync("unshare", ["-rm", "true"]).status === 0;
test.skipIf(!mayMount)("save onto a disk that gets full: each file is told of, and none lies half under its name", () => {
  const small = join(folder, "small disk");
  mkdirSync(small);
  const room = Math.ceil(picture.length / 4096 + 4) * 4096;
  const script = `mount -t tmpfs -o size=${room} tmpfs "$2" && "$0" "$1" save "$3" --to "$2" --kinds photo; echo "status $?"; cd "$2" && find . -type f -exec sha256sum {} +`;
  const { stdout, stderr } = spawnSync("unshare", ["-rm", "sh", "-c", script, process.execPath, packed.file, small, image], {
    encoding: "utf8",
  });
  const lines = stdout.split("\n").filter((line) => line.startsWith("{"));
  const written = lines.map((line) =>
    z
      .object({ path: z.string(), outcome: z.string(), because: z.string().nullable(), sha256: z.string().nullable() })
      .parse(JSON.parse(line)),
  );
  expect(written.map(({ outcome }) => outcome).sort()).toEqual(["equal", "failed"]);
  expect(written.find(({ outcome }) => outcome === "failed")?.because).toBe("there is no room left where it goes");
  expect(stdout).toContain("status 1");
  expect(stderr).toContain("1 file could not be written whole: there is no room left where it goes.");
  const there = [...stdout.matchAll(/^([0-9a-f]{64}) {2}\.\/(photos\/.*)$/gm)].map(([, sha256, path]) => ({ sha256, path }));
  expect(there).toEqual(written.filter(({ outcome }) => outcome === "equal").map(({ sha256, path }) => ({ sha256, path })));
});

const allRecordsOf = (lines: readonly string[]) =>
  lines.map((line) => Line.parse(JSON.parse(line))).filter((line) => line.type === "record");
/** Rows and entries of exports. */
const recordsOf = (lines: readonly string[]) => allRecordsOf(lines).filter(({ store }) => store === undefined);
/** What people mean by rows. */
const peopleOf = (lines: readonly string[]) => allRecordsOf(lines).filter(({ store }) => store !== undefined);

test("a packed database is scanned with the journal beside it; a backup with its owner's passphrase", () => {
  for (const file of ["calllog.db.gz", "calllog.db-journal.gz"]) copyFileSync(join("test", "databases", file), join(folder, file));
  const { status, lines } = jubar("scan", "calllog.db.gz");
  expect(status).toBe(0);
  const calls = recordsOf(lines).filter(({ table }) => table === "calls");
  // As many as the open set's account says are there, and as can come back.
  expect(calls.filter(({ state }) => state === "present")).toHaveLength(1199);
  expect(calls.filter(({ state, condition }) => state === "erased" && condition === "whole")).toHaveLength(275);
  expect(calls.some(({ evidence, state }) => state === "erased" && evidence[0].what === "journal")).toBe(true);
  expect(new Set(calls.map(({ database }) => database))).toEqual(new Set(["/calllog.db"]));

  const people = new TextEncoder().encode("BEGIN:VCARD\r\nFN:Ana Dorin\r\nTEL;CELL:+40700000101\r\nEND:VCARD\r\n");
  writeFileSync(join(folder, "people.vcf"), people);
  const archive = spawnSync("tar", ["--format=ustar", "-cf", "-", "-C", folder, "people.vcf"]);
  writeFileSync(join(folder, "phone.ab"), packBackup(archive.stdout, { passphrase: "moon rig", rounds: 50 }));
  const opened = jubar("scan", "phone.ab", "--passphrase", "moon rig");
  expect(recordsOf(opened.lines)).toMatchObject([
    { kind: "contact", database: "/people.vcf", values: { name: "Ana Dorin", phones: [{ number: "+40700000101" }] } },
  ]);
  expect(jubar("scan", "phone.ab")).toMatchObject({ status: 2, stderr: "phone.ab is encrypted: its owner's passphrase is needed.\n" });
  expect(jubar("scan", "phone.ab", "--passphrase", "no")).toMatchObject({ status: 2, stderr: "This is not the passphrase of phone.ab.\n" });
});

test("a messenger is read by its shape, by the mapping that is shipped, or by one that is given; and what is no mapping is said to be none", () => {
  copyFileSync(join("test", "databases", "quillmoth.db.gz"), join(folder, "some.db.gz"));
  const stores = (...args: string[]) => new Set(peopleOf(jubar("scan", "some.db.gz", ...args).lines).map(({ store }) => store));
  expect(stores("--without-mappings")).toEqual(new Set(["proposed"]));
  const own = JSON.parse(readFileSync("core/stores/mapping/shipped/quillmoth.json", "utf8"));
  writeFileSync(join(folder, "own.json"), JSON.stringify({ ...own, name: "my own" }));
  expect(stores("--mapping", "own.json", "--without-mappings")).toEqual(new Set(["my own"]));
  const { lines } = jubar("scan", "some.db.gz");
  const told = peopleOf(lines);
  expect(new Set(told.map(({ store }) => store))).toEqual(new Set(["quillmoth"]));
  const rows = new Set(recordsOf(lines).map(({ id }) => id));
  // Each is made of rows that are told too, and each message is of a conversation that is told.
  for (const { rows: own = [] } of told) for (const id of own) expect(rows.has(id)).toBe(true);
  const talks = new Set(told.flatMap(({ id, kind }) => (kind === "conversation" ? [id] : [])));
  for (const { kind, values } of told)
    if (kind === "chat" && values?.conversation) expect(talks.has(String(values.conversation))).toBe(true);
  writeFileSync(join(folder, "bad.json"), JSON.stringify({ ...own, direction: { by: "chance" } }));
  const bad = jubar("scan", "some.db.gz", "--mapping", "bad.json");
  expect(bad.status).toBe(2);
  expect(bad.stderr).toMatch(/^bad\.json is no mapping: direction/);
  expect(jubar("scan", "some.db.gz", "--mapping", "none.json")).toMatchObject({ status: 2 });
});

test("people's data is saved in the forms that were asked for, each file read back", () => {
  const { status, lines } = jubar("save", "calllog.db.gz", "--to", "people", "--as", "csv,json", "--state", "erased");
  expect(status).toBe(0);
  expect(lines.map((line) => JSON.parse(line)).filter(({ path }) => path.startsWith("people/"))).toMatchObject([
    { path: "people/calls.csv", outcome: "equal" },
    { path: "people/calls.json", outcome: "equal" },
  ]);
  const calls = JSON.parse(readFileSync(join(folder, "people", "people", "calls.json"), "utf8"));
  expect(calls.length).toBeGreaterThanOrEqual(275);
  expect(calls.every(({ state }: { state: string }) => state === "erased")).toBe(true);
  expect(jubar("save", "calllog.db.gz", "--to", "people2", "--as", "papyrus").status).toBe(2);
});

// RFC 8259 §6 has no infinity; the stock program writes it as a number beyond all others too ("JSON Functions", §4.1 of SQLite's documents).
test("infinite values keep their sign, and integers beyond a double their last digit", () => {
  const path = join(folder, "ends.db");
  execFileSync("sqlite3", [
    path,
    "CREATE TABLE ends(id INTEGER PRIMARY KEY, value); INSERT INTO ends VALUES(1, 9e999),(2, -9e999),(3, 0.5),(4, 9007199254740993);",
  ]);
  const { lines } = jubar("scan", "ends.db");
  expect(recordsOf(lines).map(({ columns }) => columns.value)).toEqual([
    Number.POSITIVE_INFINITY,
    Number.NEGATIVE_INFINITY,
    0.5,
    9_007_199_254_740_992,
  ]);
  expect(lines.find((line) => line.includes("9007199254740993"))).toBeDefined();
});

test("pages of a database that lie about by themselves: their rows come back, by the shape of known tables", () => {
  const page = gunzipSync(readFileSync("test/databases/mmssms-zeroed.db.gz"));
  const image = Buffer.alloc(3 * 1024 * 1024, 0);
  // Leaf pages of the sms table, known by their first byte and by what they hold.
  let placed = 0;
  for (let at = 4096; at < page.length && placed < 12; at += 4096)
    if (
      page[at] === 13 &&
      page.readUInt16BE(at + 3) > 3 &&
      page.includes("com.example.textbox", at) &&
      page.indexOf("com.example.textbox", at) < at + 4096
    )
      page.copy(image, 1_000_000 - (1_000_000 % 512) + placed++ * 20_480, at, at + 4096);
  writeFileSync(join(folder, "noise.bin"), image);
  const rows = recordsOf(jubar("scan", "noise.bin").lines);
  expect(placed).toBeGreaterThan(4);
  expect(rows.length).toBeGreaterThan(60);
  expect(rows.filter(({ table, state, database }) => table === "sms" && state === "erased" && database === null).length).toBeGreaterThan(
    60,
  );
  expect(rows.every(({ evidence }) => evidence[0].what === "stray page")).toBe(true);
});

test("practice lists its phones, starts them on loopback ports, and ends with Ctrl-C", async () => {
  const listed = called(SCRIPT, "practice", "--list").lines.map((line) => JSON.parse(line));
  expect(listed).toHaveLength(14);
  expect(listed[0]).toEqual({ type: "phone", name: "siskin-healthy", state: "healthy, debugging off", adb: null, fastboot: null });
  expect(called(SCRIPT, "practice", "banana")).toMatchObject({
    status: 2,
    stderr: expect.stringMatching(/^There is no practice phone banana: there are siskin-healthy, .*tern-unlocked.*\.$/m),
  });
  const work = spawn(process.execPath, ["--import", "tsx", "cli/main.ts", "practice", "tern-rooted", "--allow"], {
    stdio: ["ignore", "pipe", "inherit"],
  });
  const [line] = await once(work.stdout, "data");
  const { adb } = JSON.parse(String(line));
  expect(adb).toMatch(/^127\.0\.0\.1:\d+$/);
  const socket = connect(Number(adb.split(":")[1]), "127.0.0.1");
  await once(socket, "connect");
  // A connection that is still open is cut off, and does not hold the end up.
  socket.on("error", () => socket.destroy());
  work.kill("SIGINT");
  expect((await once(work, "exit"))[0]).toBe(0);
});

test("Ctrl-C: what was found is printed, the summary too, exit 130", async () => {
  const medium = join(folder, "slow.img");
  writeFileSync(medium, readFileSync(image));
  const slow = join(folder, "slow.json");
  writeFileSync(slow, JSON.stringify({ ranges: [{ start: 30_000_000, length: 512, behaviour: "slow", delayMs: 8000 }] }));
  // Only the outer process is told, as by whoever started it from a script.
  const work = spawn(process.execPath, ["scripts/jubar.mjs", "scan", medium, "--faults", slow], {
    stdio: ["ignore", "pipe", "inherit"],
  });
  let printed = "";
  work.stdout.on("data", (piece) => {
    printed += piece;
  });
  const status = new Promise((done) => work.on("exit", done));
  // It stands before the slow place when the medium is open and nothing more is read from one look to the next.
  let before = "";
  const standsStill = () => {
    const [child] = readFileSync(`/proc/${work.pid}/task/${work.pid}/children`, "utf8").trim().split(" ");
    const process = `/proc/${child || work.pid}`;
    const isOpen = readdirSync(join(process, "fd")).some((name) => readlinkSync(join(process, "fd", name), "utf8") === medium);
    const now = readFileSync(join(process, "io"), "utf8");
    const isStill = isOpen && now === before;
    before = now;
    return isStill;
  };
  await expect.poll(standsStill, { interval: 1000 }).toBe(true);
  work.kill("SIGINT");
  expect(await status).toBe(130);
  expect(parsed(printed.trim().split("\n")).at(-1)).toMatchObject({ type: "summary", finds: { photo: { erased: 1, present: 1 } } });
});
