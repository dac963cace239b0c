import { defineConfig } from "vitest/config";

/** `npm run test:long` runs what is slow and seldom tells anything new, and only that. */
const LONG = process.env.JUBAR_LONG !== undefined;

export default defineConfig({
  test: {
    include: [`{core,cli,server,standins,web,demo,scripts}/**/*${LONG ? ".long" : ""}.test.ts`],
    exclude: LONG ? ["**/node_modules/**"] : ["**/node_modules/**", "**/*.long.test.ts"],
    testTimeout: 30_000,
    // All cores: by itself one is left idle, which is half of a small machine.
    maxWorkers: "100%",
    env: { PATH: `${process.env.PATH}:/usr/sbin:/sbin`, TZ: "UTC" },
  },
});
