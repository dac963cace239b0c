import { execFileSync } from "node:child_process";
import { existsSync, mkdirSync, rmSync } from "node:fs";
import { join, resolve } from "node:path";

/** The npm package that carries the sources of the stock program; its version is pinned so that figures stay comparable. */
const PACKAGE = "sqlite3@6.0.1";
const SOURCES = "package/deps/sqlite-autoconf-3520000.tar.gz";

/**
 * The stock sqlite3 program with the dbpage table, which its `.recover` needs and Debian's lacks. Built once by gcc from the
 * library's own sources. @returns its path, or null where it cannot be built here
 */
export function stockProgram(cache: string): string | null {
  const program = resolve(join(cache, "sqlite3-recover"));
  if (existsSync(program)) return program;
  const folder = resolve(join(cache, "sqlite3-sources"));
  try {
    mkdirSync(folder, { recursive: true });
    execFileSync("npm", ["pack", PACKAGE, "--silent"], { cwd: folder, stdio: ["ignore", "ignore", "inherit"] });
    execFileSync("tar", ["xzf", "sqlite3-6.0.1.tgz", SOURCES], { cwd: folder });
    execFileSync("tar", ["xzf", SOURCES, "--strip-components=1"], { cwd: folder });
    execFileSync("gcc", ["-O2", "-DSQLITE_ENABLE_DBPAGE_VTAB", "shell.c", "sqlite3.c", "-lpthread", "-ldl", "-lm", "-o", program], {
      cwd: folder,
    });
    return program;
  } catch {
    return null;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
