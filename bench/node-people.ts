/** `node-people.ts`: takes people's data of the crowded phone, scans what came, and asks the stock adb program for the same rows; in a process of its own. */
import { execFileSync, spawn } from "node:child_process";
import { once } from "node:events";
import { closeSync, mkdtempSync, openSync, readFileSync, readSync, rmSync, writeSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { ByteSource } from "../core/bytes/source.ts";
import { introduce, packetsOver } from "../core/phones/adb/connection.ts";
import { keyRing, makeKey } from "../core/phones/adb/keys.ts";
import { PROVIDER_QUERIES } from "../core/phones/adb/provider-queries.ts";
import { scan } from "../core/scan/engine.ts";
import { EVERYTHING_THERE } from "../core/scan/scope.ts";
import { tcpPipe } from "../test/practice-phones.ts";
import { takePeople } from "../web/worker/phones/take-people.ts";

const MOST_OUTPUT = 1 << 29;
const folder = mkdtempSync(join(tmpdir(), "jubar-bench-people-"));
const phone = spawn(process.execPath, ["--import", "tsx", "bench/people-phone.ts"], { stdio: ["ignore", "pipe", "inherit"] });
const port = Number(String((await once(phone.stdout, "data"))[0]));
try {
  const serial = `127.0.0.1:${port}`;
  const adb = await introduce(serial, packetsOver(await tcpPipe(port)), keyRing([await makeKey("bench")]), () => {});
  const file = openSync(join(folder, "people.tar"), "w+");
  const began = performance.now();
  const { size } = await takePeople(
    adb,
    async (at, bytes) => void writeSync(file, bytes, 0, bytes.length, at),
    () => {},
    new AbortController().signal,
  );
  const taken = (performance.now() - began) / 1000;
  const source: ByteSource = {
    name: "people",
    size,
    async read(offset, length) {
      const bytes = new Uint8Array(length);
      readSync(file, bytes, 0, length, offset);
      return bytes;
    },
  };
  let entries = 0;
  for await (const event of scan(source, { depth: "deep", ...EVERYTHING_THERE }, new AbortController().signal))
    if (event.type === "batch") entries += event.records.length;
  const read = (performance.now() - began) / 1000 - taken;
  const peakMiB = Number(/VmHWM:\s+(\d+) kB/.exec(readFileSync("/proc/self/status", "utf8"))?.[1]) / 1024;
  await adb.close();
  closeSync(file);
  const env = { ...process.env, HOME: folder, ANDROID_ADB_SERVER_PORT: String(20_000 + (process.pid % 20_000)) };
  const stock = (...args: string[]) => execFileSync("adb", args, { env, maxBuffer: MOST_OUTPUT, stdio: ["ignore", "pipe", "ignore"] });
  stock("connect", serial);
  const from = performance.now();
  for (const { uri, columns } of PROVIDER_QUERIES)
    try {
      stock("-s", serial, "shell", `content query --uri '${uri}' --projection ${columns.join(":")}`);
    } catch {
      // What this phone does not tell it does not tell us either.
    }
  const other = (performance.now() - from) / 1000;
  stock("kill-server");
  process.stdout.write(JSON.stringify({ taken, read, stock: other, entries, peakMiB }));
} finally {
  phone.kill();
  rmSync(folder, { recursive: true });
}
process.exit(0);
