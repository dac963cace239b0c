import { execFile } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { promisify } from "node:util";
import { afterAll, beforeAll, expect, test, vi } from "vitest";
import { unpackBackup } from "../../core/backup/unpack.ts";
import { memorySource } from "../../core/bytes/memory-source.ts";
import { Command, encodePacket, MAX_PAYLOAD } from "../../core/phones/adb/packets.ts";
import { phoneOnCable, Served } from "../../test/practice-phones.ts";
import { heard } from "../../test/raw-socket.ts";
import { hashOf, practiceBytes, practiceTruth } from "../../test/scanning.ts";
import { ServiceStream } from "./service-stream.ts";

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
  // No poll is taken in a hook; this waits as long as one.
  await vi.waitFor(async () => expect((await on("rooted", "get-state")).out.toString().trim()).toBe("device"), {
    timeout: 30_000,
    interval: 200,
  });
});
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
  expect(await on("open", "shell", "su", "-c", "id")).toMatchObject({
    status: 127,
    err: "/system/bin/sh: su: inaccessible or not found\n",
  });
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
});

test("a raw partition comes whole over exec-out with elevated access, and not without", async () => {
  const { out } = await on("rooted", "exec-out", "su", "-c", "dd if=/dev/block/by-name/userdata 2>/dev/null");
  expect(out.length).toBe(50_331_648);
  expect(hashOf(out)).toBe(hashOf(practiceBytes()));
  expect((await on("open", "exec-out", "cat", "/dev/block/by-name/userdata")).out.toString()).toContain("Permission denied");
});

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

// POSIX.1-2017, Shell Command Language §2.8.2, §2.9.3: exit statuses and lists. What a practice phone does not do it refuses in words.
test.each<[string, number, string, RegExp]>([
  ["echo one; echo two", 0, "one\ntwo\n", /^$/],
  ["false && echo no; echo $?", 0, "1\n", /^$/],
  ["false || echo yes", 0, "yes\n", /^$/],
  ["true && exit 7; echo no", 7, "", /^$/],
  ["echo 'a;b' \"c && d\" e\\;f", 0, "a;b c && d e;f\n", /^$/],
  ["ls /nowhere 2>&1", 1, "ls: /nowhere: No such file or directory\n", /^$/],
  ["ls /nowhere 2>/dev/null", 1, "", /^$/],
  ["getprop ro.serialno >/dev/null", 0, "", /^$/],
  ["nothing-like-it", 127, "", /inaccessible or not found/],
  ["ls /sdcard | head", 2, "", /no pipes/],
  ["echo $HOME", 2, "", /expand nothing/],
  ["echo `id`", 2, "", /expand nothing/],
  ["cat /sdcard/x > /sdcard/y", 2, "", /nothing is written/],
  ["sleep 1 &", 2, "", /nothing runs in the background/],
  ["echo 'open", 2, "", /no closing quote/],
  ["dd if=/dev/block/by-name/userdata skip=-1", 1, "", /skip=-1: not a number/],
  ["dd if=/dev/block/by-name/userdata bs=0", 1, "", /bs=0: not a number/],
  ["dd if=/dev/block/by-name/userdata bs=1k count=99999999999999999999", 1, "", /not a number/],
  ["dd if=/dev/block/by-name/userdata bs=4G skip=999999999999", 1, "", /skip lies behind/],
  ["cmd package list packages", 1, "", /take no apps/],
])("%s: status %i", async (line, status, out, err) => {
  const said = await on("rooted", "shell", line);
  expect([said.status, said.out.toString()]).toEqual([status, out]);
  expect(said.err).toMatch(err);
});

test("what a service fails at ends that service only: the phone and the others go on", async () => {
  // Not asked for by any shell line: a read before the start of a partition, as skip=-1 once was.
  for (const line of ["dd if=/dev/block/by-name/userdata skip=-1 bs=512 count=1", "dd if=/dev/block/by-name/userdata bs=-1"])
    expect((await on("rooted", "exec-out", "su", "-c", line)).out.toString()).toContain("not a number");
  expect((await on("rooted", "shell", "id")).status).toBe(0);
});

test("what the daemon announces is there, and nothing else (AOSP, adb host-features)", async () => {
  const announced = lines((await on("open", "features")).out).sort();
  expect(announced).toEqual(["ls_v2", "shell_v2", "stat_v2"]);
});

test("an app is refused in words, whichever way it is sent", async () => {
  const app = join(home, "app.apk");
  writeFileSync(app, "x".repeat(2_000_000));
  const { status, out, err } = await on("rooted", "install", app);
  expect(status).not.toBe(0);
  expect(out.toString() + err).toMatch(/Read-only file system|take no apps/);
});

test("the stock program's backup of everything is an archive, with the app's file in it", async () => {
  const file = join(home, "all.ab");
  expect((await on("open", "backup", "-f", file, "-all")).status).toBe(0);
  const archive: Buffer[] = [];
  for await (const piece of unpackBackup(memorySource(new Uint8Array(readFileSync(file)), "all.ab"), null, () => {}))
    archive.push(Buffer.from(piece));
  expect(Buffer.concat(archive).toString("latin1")).toContain("apps/org.example.wagonnotes/f/notes.txt");
  const one = join(home, "one.ab");
  expect((await on("open", "backup", "-f", one, "org.example.nobody")).status).toBe(0);
  expect(readFileSync(one, "latin1")).toMatch(/^ANDROID BACKUP\n/);
});

test("reboot leads into the mode that is asked for, where the model has it", async () => {
  const tern = await phoneOnCable("tern-rooted", true);
  const siskin = await phoneOnCable("siskin-healthy", true);
  for (const [phone, mode, into] of [
    [tern, "recovery", "recovery"],
    [tern, "bootloader", "bootloader"],
    [tern, "download", "download"],
    [siskin, "download", "system"],
    [siskin, "recovery", "recovery"],
  ] as const) {
    phone.restart();
    const at = `127.0.0.1:${await served.adb(phone)}`;
    await adb("connect", at);
    await expect.poll(async () => (await adb("-s", at, "get-state")).out.toString().trim()).toBe("device");
    await adb("-s", at, "reboot", mode);
    await expect.poll(() => phone.mode).toBe(into);
    await adb("disconnect", at);
  }
});

test("a service that does not read makes the computer wait: what it sends is not heaped up", async () => {
  let confirmed = 0;
  const stream = new ServiceStream(
    () => {},
    () => confirmed++,
    () => {},
    MAX_PAYLOAD,
  );
  const piece = new Uint8Array(256 * 1024);
  for (let sent = 0; sent < 40; sent++) stream.took(piece);
  // One packet is on its way at a time: the computer would have stopped after the first that is not confirmed.
  expect(confirmed).toBeLessThanOrEqual(4);
  let read = 0;
  for (let taken = 0; taken < 40; taken++) read += (await stream.exactly(256 * 1024))?.length ?? 0;
  expect([read, confirmed]).toEqual([40 * 256 * 1024, 40]);
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
