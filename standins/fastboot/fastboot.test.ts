import { execFile } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { promisify } from "node:util";
import { afterAll, beforeAll, beforeEach, expect, test } from "vitest";
import { noise } from "../../test/pictures.ts";
import { Served } from "../../test/practice-phones.ts";
import { heard } from "../../test/raw-socket.ts";
import { enterMode } from "../hands.ts";
import { practicePhone } from "../kit.ts";
import type { PracticePhone } from "../phone/practice-phone.ts";
import { serveFastboot } from "./fastboot.ts";

/** The stock fastboot program against practice phones in bootloader mode. */
const folder = mkdtempSync(join(tmpdir(), "jubar-fastboot-"));
const served = new Served();
const ports: Record<string, number> = {};
const phones: Record<string, PracticePhone> = {};

beforeAll(async () => {
  for (const [name, id] of [
    ["unlocked", "tern-unlocked"],
    ["locked", "tern-recovery"],
  ]) {
    phones[name] = await practicePhone(id, false);
    phones[name].plug(true);
    ports[name] = await served.on(serveFastboot(phones[name]));
  }
});
beforeEach(() => {
  for (const phone of Object.values(phones)) enterMode(phone, "bootloader");
});
afterAll(() => {
  served.close();
  rmSync(folder, { recursive: true });
});

async function fastboot(phone: string, ...args: string[]): Promise<{ status: number; said: string }> {
  try {
    const { stdout, stderr } = await promisify(execFile)("fastboot", ["-s", `tcp:127.0.0.1:${ports[phone]}`, ...args], { timeout: 20_000 });
    return { status: 0, said: stdout + stderr };
  } catch (cause) {
    const { code, stdout, stderr } = cause as { code: number; stdout: string; stderr: string };
    return { status: code, said: stdout + stderr };
  }
}

/** A boot image with the magic and header of version 0 that fastboot looks for, one page, and a kernel of noise. */
function bootImage(): string {
  const image = Buffer.alloc(2048 + 40_000);
  image.write("ANDROID!", 0, "latin1");
  image.writeUInt32LE(40_000 - 1000, 8);
  image.writeUInt32LE(2048, 36);
  image.set(noise(39_000), 2048);
  const path = join(folder, "recovery.img");
  writeFileSync(path, image);
  return path;
}

test("a phone in bootloader mode tells what it is, and whether it is unlocked", async () => {
  const { status, said } = await fastboot("unlocked", "getvar", "all");
  expect(status).toBe(0);
  for (const line of ["product:tern", "serialno:PRACTICE-06", "unlocked:yes"]) expect(said).toContain(line);
  expect((await fastboot("locked", "getvar", "unlocked")).said).toContain("unlocked: no");
  expect((await fastboot("locked", "getvar", "colour")).said).toContain("unknown variable");
});

test("a recovery is started for this once where the bootloader is unlocked, and only there", async () => {
  const image = bootImage();
  expect(await fastboot("unlocked", "boot", image)).toMatchObject({ status: 0 });
  expect(phones.unlocked.mode).toBe("recovery");
  expect(Buffer.from(phones.unlocked.startedRecovery ?? []).equals(readFileSync(image))).toBe(true);
  const refused = await fastboot("locked", "boot", image);
  expect(refused.status).not.toBe(0);
  expect(refused.said).toContain("the bootloader is locked");
  expect(phones.locked.mode).toBe("bootloader");
});

test.each([
  [["flash", "userdata"], /nothing is ever written here/],
  [["erase", "userdata"], /nothing is ever written here/],
  [["flashing", "unlock"], /never to recover data/],
  [["oem", "unlock"], /never to recover data/],
])("fastboot %j is refused", async (args, words) => {
  const { status, said } = await fastboot("unlocked", ...args, ...(args[0] === "flash" ? [bootImage()] : []));
  expect(status).not.toBe(0);
  expect(said).toMatch(words);
});

test.each([
  ["noise", Buffer.from("GET / HTTP/1.1\r\n\r\n")],
  ["a message of 2^60 bytes", Buffer.concat([Buffer.from("FB01"), Buffer.from("1000000000000000", "hex")])],
  ["a download of 4 GiB", Buffer.concat([Buffer.from("FB01"), Buffer.from("0000000000000011", "hex"), Buffer.from("download:ffffffff")])],
  ["a start without an image", Buffer.concat([Buffer.from("FB01"), Buffer.from("0000000000000004", "hex"), Buffer.from("boot")])],
])("%s starts nothing, and the next computer is served", async (_, bytes) => {
  const answer = await heard(ports.unlocked, [bytes]);
  expect(answer).not.toMatch(/OKAY|DATA/);
  expect(phones.unlocked.mode).toBe("bootloader");
  expect((await fastboot("unlocked", "getvar", "product")).said).toContain("product: tern");
});

test("what arrives in single bytes is understood as well", async () => {
  const message = Buffer.concat([Buffer.from("FB01"), Buffer.from("000000000000000e", "hex"), Buffer.from("getvar:product")]);
  const answer = await heard(
    ports.unlocked,
    Array.from(message, (byte) => Uint8Array.of(byte)),
  );
  expect(answer).toContain("OKAYtern");
  expect(answer.slice(0, 4)).toBe("FB01");
});
