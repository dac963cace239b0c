import { defineConfig } from "@playwright/test";
import { ADB_SERVER_PORT } from "./e2e/adb-server-port.ts";

/** Not the port that a technician uses: both may run at once. Below the ports that the system gives out by itself (net.ipv4.ip_local_port_range): a client that waits for the server could else meet itself there. */
const PORT = 27_310;

export default defineConfig({
  testDir: "e2e",
  outputDir: "test-results/e2e",
  timeout: 90_000,
  // One at a time: the browser's own threads fill two cores.
  workers: 1,
  expect: { timeout: 15_000 },
  forbidOnly: true,
  // `npm run test:long` runs what is slow and seldom tells anything new, and only that.
  ...(process.env.JUBAR_LONG === undefined ? { grepInvert: /@long/ } : { grep: /@long/ }),
  reporter: [["list"], ["json"]],
  webServer: {
    command: `node --import tsx server/main.ts --port ${PORT} --media demo/practice-media.json --practice`,
    url: `http://127.0.0.1:${PORT}/api/media`,
    reuseExistingServer: false,
    env: { ANDROID_ADB_SERVER_PORT: String(ADB_SERVER_PORT) },
  },
  use: {
    baseURL: `http://127.0.0.1:${PORT}`,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: "/usr/bin/chromium",
      args: ["--no-sandbox", "--disable-quic", "--disable-background-networking", "--disable-component-update", "--disable-sync"],
    },
  },
});
