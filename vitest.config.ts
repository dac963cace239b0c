import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    include: ["{core,cli,server,standins,web,demo,scripts}/**/*.test.ts"],
    testTimeout: 30_000,
    env: { PATH: `${process.env.PATH}:/usr/sbin:/sbin`, TZ: "UTC" },
  },
});
