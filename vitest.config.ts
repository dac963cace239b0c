import { defineConfig } from "vitest/config";

/** `npm run test:long` runs what is slow and seldom tells anything new, and only that. */
const LONG = process.env.JUBAR_LONG !== undefined;

const tests = (...rooms: string[]) => ({
  include: rooms.map((room) => `${room}/**/*${LONG ? ".long" : ""}.test.ts`),
  exclude: LONG ? ["**/node_modules/**"] : ["**/node_modules/**", "**/*.long.test.ts"],
});

export default defineConfig({
  test: {
    projects: [
      // Nothing there is kept between two calls but what never changes: what is imported is imported once for all files.
      { extends: true, test: { name: "core", isolate: false, ...tests("core", "cli", "server", "standins", "demo", "scripts") } },
      // A browser's storage, locks and channels stand in for the real ones, and belong to one file.
      { extends: true, test: { name: "web", ...tests("web") } },
    ],
    // What hangs is ended; a machine that is busy with other things is given its time.
    testTimeout: 180_000,
    hookTimeout: 180_000,
    // A poll ends as soon as what it waits for is there: only a test that fails anyway waits this long.
    expect: { poll: { timeout: 30_000 } },
    // All cores: by itself one is left idle, which is half of a small machine.
    maxWorkers: "100%",
    env: { PATH: `${process.env.PATH}:/usr/sbin:/sbin`, TZ: "UTC" },
  },
});
