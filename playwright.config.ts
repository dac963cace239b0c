import { defineConfig } from "@playwright/test";
import { adbServerPort, OWN_PLACE, PLACES, serverPort } from "./e2e/places.ts";

const IS_LONG = process.env.JUBAR_LONG !== undefined;
const ALONE = /kills\.spec\.ts/;

/** One server for each place: what one test does to a practice phone, another must not see. */
const serverAt = (place: number) => ({
  command: `node --import tsx server/main.ts --port ${serverPort(place)} --media demo/practice-media.json --practice`,
  url: `http://127.0.0.1:${serverPort(place)}/api/media`,
  reuseExistingServer: false,
  env: { ANDROID_ADB_SERVER_PORT: String(adbServerPort(place)) },
});

export default defineConfig({
  testDir: "e2e",
  outputDir: "test-results/e2e",
  timeout: 180_000,
  // A test waits most of its time: two of them share a small machine well.
  workers: PLACES,
  expect: { timeout: 30_000 },
  forbidOnly: true,
  // `npm run test:long` runs what is slow and seldom tells anything new, and only that.
  ...(IS_LONG ? { grep: /@long/ } : { grepInvert: /@long/ }),
  reporter: [["list"], ["json"]],
  // What is measured by the clock runs when nothing else does. By itself: `npx playwright test --no-deps e2e/kills.spec.ts`.
  projects: [
    { name: "side by side", testIgnore: ALONE },
    { name: "alone", testMatch: ALONE, dependencies: ["side by side"], workers: 1 },
  ],
  webServer: Array.from({ length: PLACES }, (_, place) => serverAt(place)),
  use: {
    baseURL: `http://127.0.0.1:${serverPort(OWN_PLACE)}`,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      // The same browser without its own windows takes a fifth less of a small machine; the long run takes the whole one, as e2e/kills does.
      executablePath: IS_LONG ? "/usr/bin/chromium" : "/usr/bin/chromium-headless-shell",
      args: ["--no-sandbox", "--disable-quic", "--disable-background-networking", "--disable-component-update", "--disable-sync"],
    },
  },
});
