import { execFileSync, spawn } from "node:child_process";
import { once } from "node:events";
import { closeSync, mkdtempSync, openSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { z } from "zod";
import type { ByteSource } from "../core/bytes/source.ts";
import { introduce, packetsOver } from "../core/phones/adb/connection.ts";
import { keyRing, makeKey } from "../core/phones/adb/keys.ts";
import { partitionSource, partitionsOf } from "../core/phones/adb/partitions.ts";
import { listShared, sharedFileSource } from "../core/phones/adb/shared-storage.ts";
import { tcpPipe } from "../test/practice-phones.ts";

const MIB = 1024 * 1024;
export const FILE_MIB = 256;
const WINDOW = 4 * MIB;
const FILE = "/sdcard/Movies/first-night.mp4";
const PARTITION = "/dev/block/by-name/userdata";

const Pair = z.object({ own: z.number(), stock: z.number() });
/** Seconds, each with the stock program's on the same phone in the same round. */
export const Pulls = z.array(z.object({ file: Pair, partition: Pair })).min(1);
export type Pulls = z.infer<typeof Pulls>;

async function timed(work: () => Promise<unknown> | unknown): Promise<number> {
  const started = performance.now();
  await work();
  return (performance.now() - started) / 1000;
}

async function readAll(source: ByteSource): Promise<void> {
  for (let at = 0; at < source.size; at += WINDOW) await source.read(at, Math.min(WINDOW, source.size - at));
}

/** Starts a practice phone with a file and a partition of this size, in a process of its own. */
export async function benchPhone(mebibytes: number) {
  const phone = spawn(process.execPath, ["--import", "tsx", "bench/practice-phone.ts", String(mebibytes)], {
    stdio: ["ignore", "pipe", "inherit"],
  });
  return { phone, port: Number(String((await once(phone.stdout, "data"))[0])) };
}

/** Pulls a file and a raw partition of a practice phone through our client and through the stock adb program, in turn. */
export async function measurePulls(rounds: number): Promise<Pulls> {
  const { phone, port } = await benchPhone(FILE_MIB);
  const home = mkdtempSync(join(tmpdir(), "jubar-bench-adb-"));
  const environment = { ...process.env, HOME: home, ANDROID_ADB_SERVER_PORT: String(20_000 + (process.pid % 20_000)) };
  const stock = (...args: string[]) => execFileSync("adb", args, { env: environment, stdio: "ignore" });
  /** What comes out goes into a file, as a technician has it. */
  const stockInto = (path: string, ...args: string[]) => {
    const file = openSync(path, "w");
    execFileSync("adb", args, { env: environment, stdio: ["ignore", file, "ignore"] });
    closeSync(file);
  };
  try {
    const serial = `127.0.0.1:${port}`;
    stock("connect", serial);
    const adb = await introduce(serial, packetsOver(await tcpPipe(port)), keyRing([await makeKey("bench")]), () => {});
    const file = (await listShared(adb, () => {})).files[0];
    const [userdata] = await partitionsOf(adb, "plain");
    const results: Pulls = [];
    for (let round = 0; round < rounds; round++) {
      results.push({
        file: {
          own: await timed(() => readAll(sharedFileSource(adb, file))),
          stock: await timed(() => stock("-s", serial, "pull", FILE, join(home, "pulled"))),
        },
        partition: {
          own: await timed(() => readAll(partitionSource(adb, userdata, "plain"))),
          stock: await timed(() =>
            stockInto(join(home, "userdata"), "-s", serial, "exec-out", `dd if=${PARTITION} bs=1048576 2>/dev/null`),
          ),
        },
      });
    }
    await adb.close();
    return results;
  } finally {
    phone.kill();
    stock("kill-server");
    rmSync(home, { recursive: true, force: true });
  }
}
