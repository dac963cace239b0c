import { execFileSync } from "node:child_process";
import { existsSync, mkdirSync, renameSync, rmSync } from "node:fs";
import { dirname } from "node:path";

/** A large database made by the stock sqlite3 program, once: a half-made one never bears its name. @returns its path */
export function madeDatabase(path: string, commands: string): string {
  if (existsSync(path)) return path;
  mkdirSync(dirname(path), { recursive: true });
  const making = `${path}.part`;
  rmSync(making, { force: true });
  const quickly =
    "PRAGMA page_size=4096; PRAGMA journal_mode=OFF; PRAGMA synchronous=OFF; PRAGMA secure_delete=OFF; PRAGMA cache_size=-200000;";
  execFileSync("sqlite3", [making], { input: `${quickly}\n${commands}`, stdio: ["pipe", "ignore", "inherit"] });
  renameSync(making, path);
  return path;
}
