// Builds the application and serves it on this machine until Ctrl-C.
import { spawn } from "node:child_process";
import { bin, ENVIRONMENT, fail, HOME, needPackages, show } from "./set-up.mjs";

/** `options`: what the server is started with beside what the command line says. */
export function openBench(...options) {
  needPackages();
  process.stdout.write("Building…\n");
  if (show(bin("vite"), ["build", "--logLevel", "error"]) !== 0) fail("The application could not be built: the reason stands above.");
  const server = spawn(process.execPath, ["--import", "tsx", "server/main.ts", ...options, ...process.argv.slice(2)], {
    cwd: HOME,
    env: ENVIRONMENT,
    stdio: "inherit",
  });
  for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, () => server.kill(signal));
  server.on("exit", (status) => process.exit(status ?? 0));
}
