// Builds the application and serves it on this machine until Ctrl-C.
import { spawn } from "node:child_process";
import { existsSync, renameSync, rmSync } from "node:fs";
import { join } from "node:path";
import { bin, ENVIRONMENT, fail, HOME, needPackages, show } from "./set-up.mjs";

/** Builds beside what is served, and puts it in its place when it is whole: a bench that is already open goes on. */
function build() {
  const fresh = join(HOME, `dist.new-${process.pid}`);
  const old = join(HOME, `dist.old-${process.pid}`);
  const status = show(bin("vite"), ["build", "--logLevel", "error", "--outDir", fresh]);
  if (status === 0) {
    if (existsSync(join(HOME, "dist"))) renameSync(join(HOME, "dist"), old);
    renameSync(fresh, join(HOME, "dist"));
  }
  for (const folder of [fresh, old]) rmSync(folder, { recursive: true, force: true });
  if (status !== 0) fail("The application could not be built: the reason stands above.");
}

/** `options`: what the server is started with beside what the command line says. */
export function openBench(...options) {
  needPackages();
  process.stdout.write("Building…\n");
  build();
  const server = spawn(process.execPath, ["--import", "tsx", "server/main.ts", ...options, ...process.argv.slice(2)], {
    cwd: HOME,
    env: ENVIRONMENT,
    stdio: "inherit",
  });
  for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, () => server.kill(signal));
  server.on("exit", (status) => process.exit(status ?? 0));
}
