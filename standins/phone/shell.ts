import { UnreadableError } from "../../core/bytes/source.ts";
import { parseLine, RefusedSyntax, type SimpleCommand, STATUS } from "./command-line.ts";
import { fileAt, printRows, rowsAt, rowsWhere, unknownColumn } from "./people.ts";
import type { PracticePhone } from "./practice-phone.ts";
import { properties } from "./told.ts";

export interface Output {
  out(bytes: Uint8Array): Promise<void>;
  err(bytes: Uint8Array): Promise<void>;
}

const PIECE = 1024 * 1024;
/** Storage of a phone as it tells it, in KiB: all, used, free. */
const STORAGE = [54_525_952, 47_185_920, 7_340_032] as const;
const CARD_PLACE = "/storage/1A2B-3C4D";

/** Whoever runs a command: a plain shell, or one with elevated access. */
type User = "shell" | "root";
type Program = (args: readonly string[], phone: PracticePhone, output: Output, user: User) => Promise<number>;

const say = async (output: Output, words: string): Promise<number> => {
  await output.out(Buffer.from(words));
  return 0;
};
const complain = async (output: Output, sentence: string): Promise<number> => {
  await output.err(Buffer.from(`${sentence}\n`));
  return 1;
};
const partition = (path: string): boolean => path.startsWith("/dev/block/");

/** Reads a file or partition from a byte on; a partition only as root. */
async function dump(
  path: string,
  phone: PracticePhone,
  output: Output,
  user: User,
  from = 0,
  length = Number.POSITIVE_INFINITY,
  block = PIECE,
) {
  const file = phone.files.find(path);
  if (!file?.read) return complain(output, `${path}: ${file ? "Is a directory" : "No such file or directory"}`);
  if (partition(path) && user !== "root") return complain(output, `${path}: Permission denied`);
  const end = Math.min(file.size, from + length);
  // As dd does: a block that does not read ends it, and what was read before is there.
  const piece = Math.min(PIECE, Math.max(1, Math.floor(PIECE / block)) * block);
  for (let at = from; at < end; at += piece) {
    try {
      await output.out(await file.read(at, Math.min(piece, end - at)));
    } catch (cause) {
      if (!(cause instanceof UnreadableError)) throw cause;
      const whole = Math.floor((cause.offset - at) / block) * block;
      if (whole > 0) await output.out(await file.read(at, whole));
      return complain(output, `${path}: I/O error`);
    }
  }
  return 0;
}

/** A count as dd takes it: digits, and a letter that multiplies (POSIX.1-2017, dd). Null: it is none. */
function countOf(text: string): number | null {
  const [, digits, unit = ""] = /^(\d{1,15})([kKMGbw]?)$/.exec(text) ?? [];
  const times: Record<string, number> = { "": 1, w: 2, b: 512, k: 1024, K: 1024, M: 1 << 20, G: 1 << 30 };
  const count = digits === undefined ? Number.NaN : Number(digits) * times[unit];
  return Number.isSafeInteger(count) ? count : null;
}

/** Operands of dd (POSIX.1-2017): if=, bs=, skip=, count=. */
async function copyBlocks(args: readonly string[], phone: PracticePhone, output: Output, user: User): Promise<number> {
  const operands = new Map(args.map((one) => [one.slice(0, one.indexOf("=")), one.slice(one.indexOf("=") + 1)]));
  const from = operands.get("if");
  if (operands.has("of")) return complain(output, "dd: Read-only file system");
  if (!from) return complain(output, "dd: if= is missing");
  const numbers: Record<string, number> = { bs: 512, skip: 0, count: Number.POSITIVE_INFINITY };
  for (const name of Object.keys(numbers)) {
    const text = operands.get(name);
    if (text === undefined) continue;
    const number = countOf(text);
    if (number === null || (name === "bs" && number === 0)) return complain(output, `dd: ${name}=${text}: not a number that can be`);
    numbers[name] = number;
  }
  const { bs, skip, count } = numbers;
  if (!Number.isSafeInteger(skip * bs)) return complain(output, "dd: skip lies behind every end");
  return dump(from, phone, output, user, skip * bs, count * bs, bs);
}

/** Nothing is put onto a practice phone. */
const installsNothing: Program = (_, __, output) => complain(output, "Failure: practice phones take no apps, and are only read");

/** Programs of a practice phone, as far as a technician asks for them. Adding one is adding its line. */
const PROGRAMS: Record<string, Program> = {
  getprop([name], phone, output) {
    const told = properties(phone);
    if (name !== undefined) return say(output, `${told.get(name) ?? ""}\n`);
    return say(output, [...told].map(([key, value]) => `[${key}]: [${value}]\n`).join(""));
  },
  id: (_, __, output, user) => say(output, user === "root" ? "uid=0(root) gid=0(root)\n" : "uid=2000(shell) gid=2000(shell)\n"),
  async su([flag, ...command], phone, output) {
    if (!phone.card.rooted) return complain(output, "/system/bin/sh: su: inaccessible or not found").then(() => NOT_FOUND);
    if (flag !== "-c") return complain(output, "su: only with -c");
    phone.rootAllowed ||= await phone.ask("root", "");
    return phone.rootAllowed ? run(command.join(" "), phone, output, "root") : complain(output, "su: Permission denied");
  },
  which: ([name = ""], phone, output) =>
    name === "su" && !phone.card.rooted
      ? Promise.resolve(1)
      : Object.hasOwn(PROGRAMS, name)
        ? say(output, `/system/xbin/${name}\n`)
        : Promise.resolve(1),
  dumpsys: ([what], phone, output) =>
    what === "trust"
      ? say(
          output,
          `Trust manager state:\n User "Owner" (id=0, flags=0x13) (current): trusted=0, trustManaged=0, deviceLocked=${phone.locked ? 1 : 0}, strongAuthRequired=0x0\n`,
        )
      : what === "battery"
        ? say(output, `Current Battery Service state:\n  AC powered: false\n  USB powered: true\n  level: ${phone.battery}\n  scale: 100\n`)
        : complain(output, `Can't find service: ${what ?? ""}`),
  df: (_, __, output) => {
    const line = (device: string, [all, used, free]: readonly number[], place: string) =>
      `${device} ${all} ${used} ${free} ${Math.round((used / all) * 100)}% ${place}\n`;
    const card = [31_154_176, 20_971_520, 10_182_656];
    return say(
      output,
      `Filesystem 1K-blocks Used Available Use% Mounted on\n${line("/dev/block/dm-3", STORAGE, "/data")}${line("/dev/fuse", STORAGE, "/storage/emulated")}${line("/dev/fuse", card, CARD_PLACE)}`,
    );
  },
  mount: (_, { card }, output) =>
    say(
      output,
      `/dev/block/dm-3 on /data type ${card.storage === "f2fs" ? "f2fs" : "ext4"} (rw,seclabel,nosuid,nodev,noatime${card.encryption === "file" ? ",discard" : ""})\n`,
    ),
  async content([verb, ...args], phone, output) {
    const option = (name: string): string | undefined => (args.includes(name) ? args[args.indexOf(name) + 1] : undefined);
    const uri = option("--uri");
    if (uri === undefined || (verb !== "query" && verb !== "read")) return complain(output, "[ERROR] Unsupported operation");
    const refuse = (because: string) => complain(output, `Error while accessing provider:${uri}\n${because}`);
    if (verb === "read") {
      const bytes = await fileAt(uri, phone.files);
      if (!bytes) return refuse("java.io.FileNotFoundException: No files supported by provider");
      await output.out(bytes);
      return 0;
    }
    const all = rowsAt(uri, phone.files, Number.parseInt(phone.card.android, 10), phone.people);
    if (!all) return refuse("java.lang.IllegalStateException: Could not find provider");
    const columns = option("--projection")?.split(":") ?? null;
    const unknown = columns && unknownColumn(all, columns);
    if (unknown) return refuse(`java.lang.IllegalArgumentException: Invalid column ${unknown}`);
    const rows = rowsWhere(all, option("--where"));
    if (!rows) return refuse("java.lang.IllegalArgumentException: a condition that is not known here");
    for (const piece of printRows(rows, columns)) await output.out(Buffer.from(piece));
    return 0;
  },
  blockdev: ([flag, path = ""], phone, output, user) => {
    const file = phone.files.find(path);
    if (flag !== "--getsize64" || !file || !partition(path)) return complain(output, `blockdev: ${path}: No such file or directory`);
    return user === "root" ? say(output, `${file.size}\n`) : complain(output, `blockdev: ${path}: Permission denied`);
  },
  ls([...args], phone, output) {
    const long = args.includes("-l");
    const path = args.find((one) => !one.startsWith("-")) ?? "/";
    const file = phone.files.find(path);
    if (!file) return complain(output, `ls: ${path}: No such file or directory`);
    const line = ({ name, size, mode, modified }: typeof file) =>
      long ? `${mode.toString(8)} ${size} ${new Date(modified * 1000).toISOString().slice(0, 16).replace("T", " ")} ${name}` : name;
    const lines = (file.read ? [file] : phone.files.list(path)).map(line).sort();
    return say(output, lines.map((one) => `${one}\n`).join(""));
  },
  cat: ([path = ""], phone, output, user) => dump(path, phone, output, user),
  dd: copyBlocks,
  cmd: installsNothing,
  pm: installsNothing,
  echo: (words, _, output) => say(output, `${words.join(" ")}\n`),
  true: async () => 0,
  false: async () => 1,
};

/** Exit statuses of the shell (POSIX.1-2017, §2.8.2): syntax errors, and a name that is no program. */
const SYNTAX = 2;
const NOT_FOUND = 127;

async function run(line: string, phone: PracticePhone, output: Output, user: User): Promise<number> {
  let commands: SimpleCommand[];
  try {
    commands = parseLine(line);
  } catch (cause) {
    if (!(cause instanceof RefusedSyntax)) throw cause;
    await complain(output, `sh: ${cause.message}`);
    return SYNTAX;
  }
  if (commands.length === 0) return complain(output, "no interactive shell on a practice phone: give a command");
  let status = 0;
  for (const command of commands) {
    if ((command.after === "success" && status !== 0) || (command.after === "failure" && status === 0)) continue;
    const words = command.words.map((word) => (word === STATUS ? String(status) : word));
    if (words[0] === "exit") return words[1] === undefined ? status : Number(words[1]) & 0xff;
    status = await runOne(words, phone, redirected(command, output), user);
  }
  return status;
}

const nowhere = async (): Promise<void> => {};
function redirected({ quiet, quietErrors, errorsToo }: SimpleCommand, output: Output): Output {
  const out = quiet ? nowhere : output.out;
  return { out, err: quietErrors ? nowhere : errorsToo ? out : output.err };
}

async function runOne([name, ...args]: readonly string[], phone: PracticePhone, output: Output, user: User): Promise<number> {
  const program = Object.hasOwn(PROGRAMS, name) ? PROGRAMS[name] : null;
  if (program) return program(args, phone, output, user);
  await complain(output, `/system/bin/sh: ${name}: inaccessible or not found`);
  return NOT_FOUND;
}

/** Runs a line: as the plain shell user, or as root where the recovery's shell has every right. @returns its exit status */
export const runShell = (line: string, phone: PracticePhone, output: Output): Promise<number> =>
  run(line, phone, output, phone.mode === "recovery" ? "root" : "shell");
