import { execFile } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { promisify } from "node:util";
import { afterAll, beforeAll, expect, test, vi } from "vitest";
import { Command, encodePacket } from "../../core/phones/adb/packets.ts";
import { phoneOnCable, Served } from "../../test/practice-phones.ts";
import { heard } from "../../test/raw-socket.ts";
import { hashOf, practiceBytes, practiceTruth } from "../../test/scanning.ts";

/** The stock adb program against practice phones: so that they are true to the protocol, and not only to our own client. */
const home = mkdtempSync(join(tmpdir(), "jubar-adb-"));
const SERVER_PORT = String(20_000 + (process.pid % 20_000));
const environment = { ...process.env, HOME: home, ANDROID_ADB_SERVER_PORT: SERVER_PORT };
const served = new Served();
const phones: Record<string, string> = {};

async function adb(...args: string[]): Promise<{ status: number; out: Buffer; err: string }> {
  try {
    const { stdout, stderr } = await promisify(execFile)("adb", args, {
      env: environment,
      encoding: "buffer",
      maxBuffer: 256 * 1024 * 1024,
    });
    return { status: 0, out: stdout, err: stderr.toString() };
  } catch (cause) {
    const { code, stdout, stderr } = cause as { code: number; stdout: Buffer; stderr: Buffer };
    return { status: code, out: stdout, err: stderr.toString() };
  }
}
const on = (phone: string, ...args: string[]) => adb("-s", phones[phone], ...args);
const lines = (out: Buffer) => out.toString().trim().split("\n");

beforeAll(async () => {
  for (const [name, id, allow] of [
    ["open", "siskin-healthy", true],
    ["rooted", "tern-rooted", true],
    ["asking", "siskin-healthy", false],
  ] as const) {
    phones[name] = `127.0.0.1:${await served.adb(await phoneOnCable(id, allow))}`;
    await adb("connect", phones[name]);
  }
  await vi.waitFor(async () => expect((await on("rooted", "get-state")).out.toString().trim()).toBe("device"), {
    timeout: 15_000,
    interval: 200,
  });
}, 60_000);
afterAll(async () => {
  await adb("kill-server");
  served.close();
  rmSync(home, { recursive: true, force: true });
});

test("a phone whose owner allows this computer is ready, one that is not answered stays shut", async () => {
  const listed = (await adb("devices")).out.toString();
  expect(listed).toContain(`${phones.open}\tdevice`);
  expect(listed).toContain(`${phones.asking}\tunauthorized`);
  const { status, err } = await on("asking", "shell", "id");
  expect(status).not.toBe(0);
  expect(err).toMatch(/unauthorized/);
});

test("facts are read as from a real phone; exit status and error output cross on their own", async () => {
  expect((await on("open", "shell", "getprop", "ro.build.version.release")).out.toString()).toBe("12\n");
  expect((await on("open", "shell", "getprop")).out.toString()).toContain("[ro.crypto.type]: [file]");
  expect((await on("open", "shell", "dumpsys", "battery")).out.toString()).toContain("level: 64");
  expect((await on("open", "shell", "id")).out.toString()).toContain("uid=2000(shell)");
  expect(await on("open", "shell", "su", "-c", "id")).toMatchObject({ status: 1, err: "su: inaccessible or not found\n" });
  expect((await on("rooted", "shell", "su", "-c", "id")).out.toString()).toContain("uid=0(root)");
  expect(await on("open", "shell", "reboot")).toMatchObject({ status: 127 });
});

test("the shared storage is listed and pulled, byte for byte and with its times", async () => {
  const present = practiceTruth().files.filter(({ path, state }) => state === "present" && path.startsWith("/DCIM/100SISK3/"));
  const listed = lines((await on("open", "shell", "ls", "/sdcard/DCIM/100SISK3")).out);
  expect(listed.filter((name) => !name.startsWith("."))).toEqual(present.map(({ path }) => path.slice(path.lastIndexOf("/") + 1)).sort());
  const target = join(home, "pulled");
  expect((await on("open", "pull", "-a", "/sdcard/DCIM/100SISK3", target)).status).toBe(0);
  for (const { path, sha256, size } of present) {
    const local = join(target, path.slice(path.lastIndexOf("/") + 1));
    expect(hashOf(readFileSync(local)), path).toBe(sha256);
    expect(statSync(local).size).toBe(size);
    expect(statSync(local).mtime.getUTCFullYear(), path).toBe(2026);
  }
}, 60_000);

test("a raw partition comes whole over exec-out with elevated access, and not without", async () => {
  const { out } = await on("rooted", "exec-out", "su", "-c", "dd if=/dev/block/by-name/userdata 2>/dev/null");
  expect(out.length).toBe(50_331_648);
  expect(hashOf(out)).toBe(hashOf(practiceBytes()));
  expect((await on("open", "exec-out", "cat", "/dev/block/by-name/userdata")).out.toString()).toContain("Permission denied");
}, 60_000);

test("nothing can be sent to a practice phone", async () => {
  const file = join(home, "song.txt");
  writeFileSync(file, "x".repeat(300_000));
  const { status, out } = await on("rooted", "push", file, "/sdcard/song.txt");
  expect(status).not.toBe(0);
  expect(out.toString()).toContain("Read-only file system");
  expect(await on("rooted", "shell", "dd", "if=/sdcard/a", "of=/dev/block/by-name/userdata")).toMatchObject({
    err: "dd: Read-only file system\n",
  });
  expect((await on("rooted", "shell", "ls", "/sdcard/song.txt")).status).toBe(1);
});

test("a file that is not there is said so", async () => {
  const { status, out } = await on("open", "pull", "/sdcard/nothing.jpg", join(home, "nothing.jpg"));
  expect(status).not.toBe(0);
  expect(out.toString()).toMatch(/does not exist|No such file/);
});

test.each([
  ["noise", Buffer.from("GET / HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")],
  [
    "a payload of 4 GiB",
    (() => {
      const packet = Buffer.from(encodePacket(Command.WRTE, 1, 1));
      packet.writeUInt32LE(0xffff_ffff, 12);
      return packet;
    })(),
  ],
  [
    "services before it was let in",
    Buffer.concat([encodePacket(Command.CNXN, 1, 4096), encodePacket(Command.OPEN, 1, 0, Buffer.from("shell:id\0"))]),
  ],
  [
    "a key that is none",
    Buffer.concat([encodePacket(Command.CNXN, 1, 4096), encodePacket(Command.AUTH, 3, 0, Buffer.from("AAAA nobody\0"))]),
  ],
])("%s opens nothing and ends nothing but its own connection", async (_, bytes) => {
  const answer = await heard(Number(phones.open.split(":")[1]), [bytes]);
  expect(answer).not.toMatch(/uid=|OKAY/);
  expect((await on("open", "shell", "id")).status).toBe(0);
});
