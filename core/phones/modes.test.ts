import { afterAll, expect, test } from "vitest";
import { serveDownloadMode } from "../../standins/download/download-mode.ts";
import { serveFastboot } from "../../standins/fastboot/fastboot.ts";
import { enterMode } from "../../standins/hands.ts";
import { ownersComputer, practicePhone } from "../../standins/kit.ts";
import { systemImage, thingsOf } from "../../standins/things.ts";
import { Served, tcpPipe } from "../../test/practice-phones.ts";
import { portableSha256 } from "../bytes/hash.ts";
import { DownloadAnswer, DownloadMode, encodeMessage, hearMessage } from "./download-mode.ts";
import { Bootloader } from "./fastboot.ts";
import { PieceQueue } from "./piece-queue.ts";

const served = new Served();
afterAll(() => served.close());
const owner = ownersComputer();

async function inDownloadMode() {
  const phone = await practicePhone("tern-stuck", false, owner);
  phone.plug(true);
  enterMode(phone, "download");
  const pipe = await tcpPipe(await served.on(serveDownloadMode(phone)));
  return { phone, pipe };
}
const noted = () => {};

// The stock fastboot program is held against the same stand-in in standins/fastboot.
test("our fastboot client identifies a phone and starts a recovery, where the bootloader is unlocked", async () => {
  for (const [id, unlocked] of [
    ["tern-unlocked", true],
    ["tern-recovery", false],
  ] as const) {
    const phone = await practicePhone(id, false, owner);
    phone.plug(true);
    enterMode(phone, "bootloader");
    const bootloader = await Bootloader.greet(await tcpPipe(await served.on(serveFastboot(phone))));
    expect(await bootloader.report()).toMatchObject({ product: "tern", serial: phone.card.serial, unlocked });
    await expect(bootloader.start(Buffer.from("a letter"), noted)).rejects.toThrow(/no recovery image/);
    const image = thingsOf({ ...phone.card, brokenSystem: true, bootloaderUnlocked: true }, owner).find(
      ({ name }) => name === "recovery.img",
    );
    if (!image) throw new Error("no recovery image lies there");
    const starting = bootloader.start(image.bytes, noted);
    if (unlocked) await starting;
    else await expect(starting).rejects.toThrow(/locked/);
    expect(phone.mode).toBe(unlocked ? "recovery" : "bootloader");
  }
});

test("download mode: the system image of exactly this build is written, and the phone starts again", async () => {
  const { phone, pipe } = await inDownloadMode();
  const mode = new DownloadMode(pipe);
  expect(await mode.identify()).toMatchObject({ model: "Tern One", build: "TN1.190711.017", battery: 57 });
  const [right, wrong] = thingsOf(phone.card, owner);
  const sha256 = await portableSha256();
  await expect(mode.repair(wrong.bytes, sha256, noted)).rejects.toThrow("one letter off is off");
  await expect(mode.repair(systemImage("Siskin 3", phone.card.build, { boot: Buffer.alloc(9) }), sha256, noted)).rejects.toThrow(
    /is for Siskin 3/,
  );
  const damaged = Buffer.from(right.bytes);
  damaged[damaged.length - 5] ^= 1;
  await expect(mode.repair(damaged, sha256, noted)).rejects.toThrow(/damaged/);
  await expect(mode.repair(right.bytes.subarray(0, -1), sha256, noted)).rejects.toThrow(/cut/);
  expect(phone.repaired).toEqual([]);
  expect(await mode.repair(right.bytes, sha256, noted)).toEqual(["boot", "system"]);
  mode.restart();
  await expect.poll(() => phone.mode).toBe("system");
});

test("the user's data is never written: not by the client, and not when the phone is asked directly", async () => {
  const { phone, pipe } = await inDownloadMode();
  const mode = new DownloadMode(pipe);
  const image = systemImage("Tern One", phone.card.build, { boot: Buffer.alloc(9), userdata: Buffer.alloc(9) });
  await expect(mode.repair(image, await portableSha256(), noted)).rejects.toThrow(/never does that/);
  mode.close();
  const direct = await tcpPipe(await served.on(serveDownloadMode(phone)));
  const answers = new PieceQueue(direct);
  const ask = async (partition: string, build: string) => {
    direct.send(encodeMessage({ say: "repair", build, partition, bytes: 9, sha256: "0".repeat(64) }));
    return hearMessage(answers, DownloadAnswer);
  };
  for (const name of ["userdata", "metadata", "../userdata", "USERDATA"])
    expect(await ask(name, phone.card.build), name).toMatchObject({ answer: "refused" });
  expect(await ask("boot", "TN1.190711.018")).toMatchObject({ answer: "refused" });
  phone.battery = 19;
  expect(await ask("boot", phone.card.build)).toMatchObject({ answer: "refused", because: expect.stringContaining("19 %") });
  expect(phone.repaired).toEqual([]);
});

test.each([
  ["noise", Buffer.from("GET / HTTP/1.1\r\n\r\n")],
  ["a length of 4 GiB", Buffer.from("ffffffff00", "hex")],
  ["no JSON", Buffer.from("00000003616263", "hex")],
])("%s from the other side is no answer, and no hang", async (_, bytes) => {
  const pipe = {
    listen(heard: (piece: Uint8Array) => void) {
      setTimeout(() => heard(bytes), 5);
    },
    send: noted,
    close: noted,
  };
  await expect(new DownloadMode(pipe).identify()).rejects.toThrow(/does not answer as download mode/);
});
