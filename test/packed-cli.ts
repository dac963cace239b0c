import { mkdirSync, mkdtempSync } from "node:fs";
import { join, resolve } from "node:path";
import { build } from "vite";

/**
 * The terminal interface as one file: begun some fifty times, what it is made of need not be read and translated each time.
 * It lies two folders deep, as the file does that looks for the practice phones' people beside it. @returns the folder, to be removed, and the file
 */
export async function packedCli(): Promise<{ folder: string; file: string }> {
  mkdirSync("test-results", { recursive: true });
  const folder = mkdtempSync(resolve("test-results", "cli-"));
  await build({
    configFile: false,
    logLevel: "error",
    build: { ssr: "cli/main.ts", outDir: folder, emptyOutDir: false, minify: false, target: "node20" },
    ssr: { noExternal: true },
  });
  return { folder, file: join(folder, "main.js") };
}
