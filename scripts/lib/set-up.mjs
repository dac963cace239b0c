// What a fresh machine lacks, installed by the commands themselves. Plain JavaScript: it runs before anything is installed.
import { spawnSync } from "node:child_process";
import { existsSync, readFileSync } from "node:fs";
import { delimiter, dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

/** The project's folder: every command may be called from anywhere. */
export const HOME = dirname(dirname(dirname(fileURLToPath(import.meta.url))));

const PATH = [process.env.PATH, "/usr/sbin", "/sbin"].join(delimiter);
/** The environment that the tools run in: mkfs lives where only root looks. */
export const ENVIRONMENT = { ...process.env, PATH };

/** Debian's package of each command that the tests call. */
const TOOLS = {
  chromium: "chromium",
  "chromium-headless-shell": "chromium-headless-shell",
  mcopy: "mtools",
  "mkfs.vfat": "dosfstools",
  "mkfs.exfat": "exfatprogs",
  "mkfs.ext4": "e2fsprogs",
  debugfs: "e2fsprogs",
  "sload.f2fs": "f2fs-tools",
  img2simg: "android-sdk-libsparse-utils",
  sqlite3: "sqlite3",
  zip: "zip",
  xz: "xz-utils",
  sgdisk: "gdisk",
  sfdisk: "fdisk",
  exiftool: "libimage-exiftool-perl",
  jpegtran: "libjpeg-turbo-progs",
  pnmtopng: "netpbm",
  adb: "adb",
  fastboot: "fastboot",
};

/** Ends the command with one sentence. */
export function fail(sentence) {
  process.stderr.write(`${sentence}\n`);
  process.exit(1);
}

const run = (command, args, options = {}) => spawnSync(command, args, { cwd: HOME, env: ENVIRONMENT, encoding: "utf8", ...options });

const has = (command) => PATH.split(delimiter).some((folder) => existsSync(join(folder, command)));

function isInstalled([name, asked]) {
  // One that stands under another name says its own before its version.
  const version = asked.slice(asked.lastIndexOf("@") + 1);
  const about = join(HOME, "node_modules", name, "package.json");
  return existsSync(about) && JSON.parse(readFileSync(about, "utf8")).version === version;
}

/** Installs the npm packages, if one is missing or of another version than the one that is asked for. */
export function needPackages() {
  const [major, minor] = process.versions.node.split(".").map(Number);
  if (major < 20 || (major === 20 && minor < 19)) fail(`Node ${process.versions.node} is too old: Jubar needs 20.19 or newer.`);
  const { dependencies, devDependencies } = JSON.parse(readFileSync(join(HOME, "package.json"), "utf8"));
  if (Object.entries({ ...dependencies, ...devDependencies }).every(isInstalled)) return;
  process.stderr.write("Installing the packages (npm ci), this takes a minute…\n");
  const { status, stderr, error } = run("npm", ["ci", "--no-audit", "--no-fund", "--include=dev"]);
  if (error?.code === "ENOENT") fail("npm is missing: install Node.js with npm.");
  if (status !== 0) fail(`The packages could not be installed: ${lastLine(stderr)}`);
}

const lastLine = (text) =>
  text.split("\n").filter((line) => /error/i.test(line) && !/complete log|_logs/.test(line))[0] ?? text.trim().split("\n").at(-1);

/** Installs the tools of the tests from Debian's packages, if one is missing. `more`: what else is needed, by its package. */
export function needTools(more = {}) {
  const missing = [...new Set(Object.entries({ ...TOOLS, ...more }).flatMap(([command, name]) => (has(command) ? [] : [name])))];
  if (missing.length === 0) return;
  const byHand = `install them with: apt-get install ${missing.join(" ")}`;
  if (!has("apt-get")) fail(`Missing tools, and this machine has no apt-get: ${missing.join(", ")}.`);
  const asRoot = process.getuid?.() === 0 ? [] : has("sudo") && run("sudo", ["-n", "true"]).status === 0 ? ["sudo", "-n"] : null;
  if (!asRoot) fail(`Missing tools, and no right to install them; ${byHand}`);
  process.stderr.write(`Installing Debian's packages ${missing.join(", ")}…\n`);
  const apt = (...args) => {
    const [command, ...rest] = [...asRoot, "apt-get", ...args];
    return run(command, rest, { env: { ...ENVIRONMENT, DEBIAN_FRONTEND: "noninteractive" } });
  };
  apt("update", "-qq");
  const { status, stderr } = apt("install", "-y", "-qq", "--no-install-recommends", ...missing);
  if (status !== 0) fail(`Debian's packages could not be installed (${lastLine(stderr)}); ${byHand}`);
}

/** Runs a command of the project with its output shown. @returns its exit status */
export function show(command, args, options = {}) {
  const { status, signal } = run(command, args, { stdio: "inherit", ...options });
  return status ?? (signal === "SIGINT" ? 130 : 1);
}

/** A program of node_modules. */
export const bin = (name) => join(HOME, "node_modules", ".bin", name);
