import type { PracticePhone } from "./practice-phone.ts";

export interface Output {
  out(bytes: Uint8Array): Promise<void>;
  err(bytes: Uint8Array): Promise<void>;
}

const PIECE = 1024 * 1024;
/** Whoever runs a command: a plain shell, or one with elevated access. */
type User = "shell" | "root";
type Program = (args: readonly string[], phone: PracticePhone, output: Output, user: User) => Promise<number>;

const text = (words: string): Buffer => Buffer.from(words, "utf8");
const complain = async (output: Output, sentence: string): Promise<number> => {
  await output.err(text(`${sentence}\n`));
  return 1;
};

/** Reads a file or partition to its end; a partition only as root. */
async function dump(path: string, phone: PracticePhone, output: Output, user: User): Promise<number> {
  const file = phone.files.find(path);
  if (!file?.read) return complain(output, `${path}: ${file ? "Is a directory" : "No such file or directory"}`);
  if (path.startsWith("/dev/block/") && user !== "root") return complain(output, `${path}: Permission denied`);
  for (let at = 0; at < file.size; at += PIECE) await output.out(await file.read(at, Math.min(PIECE, file.size - at)));
  return 0;
}

/** Programs of a practice phone, as far as a technician asks for them. Adding one is adding its line. */
const PROGRAMS: Record<string, Program> = {
  async getprop([name], phone, output) {
    const properties = phone.properties();
    const lines =
      name === undefined ? [...properties].map(([key, value]) => `[${key}]: [${value}]\n`).join("") : `${properties.get(name) ?? ""}\n`;
    await output.out(text(lines));
    return 0;
  },
  async id(_, __, output, user) {
    await output.out(text(user === "root" ? "uid=0(root) gid=0(root)\n" : "uid=2000(shell) gid=2000(shell)\n"));
    return 0;
  },
  async su([flag, ...command], phone, output) {
    if (!phone.card.rooted) return complain(output, "su: inaccessible or not found");
    return flag === "-c" ? run(command.join(" "), phone, output, "root") : complain(output, "su: only with -c");
  },
  async dumpsys([what], phone, output) {
    if (what !== "battery") return complain(output, `Can't find service: ${what ?? ""}`);
    await output.out(text(`Current Battery Service state:\n  USB powered: true\n  level: ${phone.card.battery}\n  scale: 100\n`));
    return 0;
  },
  async ls([...args], phone, output) {
    const long = args.includes("-l");
    const path = args.find((one) => !one.startsWith("-")) ?? "/";
    const file = phone.files.find(path);
    if (!file) return complain(output, `ls: ${path}: No such file or directory`);
    const line = ({ name, size, mode, modified }: typeof file) =>
      long ? `${mode.toString(8)} ${size} ${new Date(modified * 1000).toISOString().slice(0, 16).replace("T", " ")} ${name}` : name;
    const lines = (file.read ? [file] : phone.files.list(path)).map(line).sort();
    await output.out(text(lines.map((one) => `${one}\n`).join("")));
    return 0;
  },
  cat: ([path = ""], phone, output, user) => dump(path, phone, output, user),
  dd(args, phone, output, user) {
    const from = args.find((one) => one.startsWith("if="))?.slice(3);
    if (args.some((one) => one.startsWith("of="))) return complain(output, "dd: Read-only file system");
    return from ? dump(from, phone, output, user) : complain(output, "dd: if= is missing");
  },
};

/** Words of a command line; quotes hold words together. */
const wordsOf = (command: string): string[] =>
  Array.from(command.matchAll(/"([^"]*)"|'([^']*)'|(\S+)/g), ([, double, single, bare]) => double ?? single ?? bare);

function run(command: string, phone: PracticePhone, output: Output, user: User): Promise<number> {
  const [name, ...args] = wordsOf(command.replace(/\s*2>\/dev\/null\s*$/, ""));
  if (!name) return complain(output, "no interactive shell on a practice phone: give a command");
  const program = Object.hasOwn(PROGRAMS, name) ? PROGRAMS[name] : null;
  return program ? program(args, phone, output, user) : complain(output, `${name}: inaccessible or not found`).then(() => 127);
}

/** Runs one command as the plain shell user. @returns its exit status */
export const runShell = (command: string, phone: PracticePhone, output: Output): Promise<number> => run(command, phone, output, "shell");
