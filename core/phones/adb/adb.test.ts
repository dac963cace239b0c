import { generateKeyPairSync } from "node:crypto";
import { afterAll, expect, test, vi } from "vitest";
import { bringIn, enterMode } from "../../../standins/hands.ts";
import { ownersComputer } from "../../../standins/kit.ts";
import { PhoneFiles } from "../../../standins/phone/files.ts";
import { PracticePhone } from "../../../standins/phone/practice-phone.ts";
import { crowdedPhone, stoppedAfter } from "../../../test/crowded-phone.ts";
import { phoneOnCable, Served, tcpPipe } from "../../../test/practice-phones.ts";
import { hashOf, practiceBytes, practiceTruth } from "../../../test/scanning.ts";
import { type Fault, faultySource } from "../../bytes/faulty-source.ts";
import { memorySource } from "../../bytes/memory-source.ts";
import { patientSource } from "../../bytes/patient-source.ts";
import { UnusableError } from "../../bytes/source.ts";
import { tarSource } from "../../filesystems/tar/tar-source.ts";
import { backUpApps } from "./app-backup.ts";
import { introduce, packetsOver } from "./connection.ts";
import { lookAtEasyPlaces } from "./easy-look.ts";
import { type ComputerKey, fingerprintOf, keyFromPem, keyRing, makeKey } from "./keys.ts";
import { partitionSource, partitionsOf, takeElevatedAccess } from "./partitions.ts";
import { factsFrom, reportOf } from "./phone-report.ts";
import { PrintedRows } from "./printed-rows.ts";
import { mainQuery } from "./provider-queries.ts";
import { askProvider } from "./providers.ts";
import { listShared, sharedFileSource } from "./shared-storage.ts";
import { runOnPhone } from "./shell.ts";

/** Our client against practice phones, which the stock adb program is held against in standins/adb. */
const served = new Served();
afterAll(() => served.close());
const own = await makeKey("bench@jubar");

async function enter(phone: PracticePhone, keys: readonly ComputerKey[] = [own], waits: () => void = () => {}) {
  return introduce(phone.card.serial, packetsOver(await tcpPipe(await served.adb(phone))), keyRing(keys), waits);
}

test("the question comes to the screen with this key's fingerprint; after a yes the phone asks no more", async () => {
  const phone = await phoneOnCable("siskin-healthy", false);
  const port = await served.adb(phone);
  const waits = vi.fn();
  const entering = introduce("x", packetsOver(await tcpPipe(port)), keyRing([own]), waits);
  const fingerprint = await fingerprintOf(own);
  await expect.poll(() => phone.question?.about).toBe(fingerprint);
  expect(waits).toHaveBeenCalledOnce();
  phone.tap("yes");
  await (await entering).close();
  const again = await introduce("x", packetsOver(await tcpPipe(port)), keyRing([own]), waits);
  expect(waits).toHaveBeenCalledOnce();
  await again.close();
});

test("a phone with a black screen lets the owner's saved key in, and no other", async () => {
  const owner = ownersComputer();
  const phone = await phoneOnCable("siskin-black", false, owner);
  const brought = await keyFromPem(owner.pem, "owner");
  const adb = await enter(phone, [own, brought], () => expect.unreachable("nobody could answer"));
  expect((await reportOf(adb)).model).toBe("Siskin 3");
  await adb.close();
});

// RFC 8017 §A.1.2: the older form of a private key, as older debugging programs stored it.
test("saved keys are read in both forms; what is none is said in plain words", async () => {
  const { privateKey } = generateKeyPairSync("rsa", { modulusLength: 2048 });
  const pem = (type: "pkcs1" | "pkcs8") => String(privateKey.export({ type, format: "pem" }));
  const old = await keyFromPem(pem("pkcs1"), "old");
  expect(Buffer.from(old.pkcs8).equals(privateKey.export({ type: "pkcs8", format: "der" }))).toBe(true);
  expect((await keyFromPem(pem("pkcs8"), "new")).pkcs8).toEqual(old.pkcs8);
  const elliptic = String(generateKeyPairSync("ec", { namedCurve: "P-256" }).privateKey.export({ type: "pkcs8", format: "pem" }));
  for (const [text, words] of [
    ["a shopping list", /the file called adbkey/],
    [`QAAAA${"A".repeat(700)} owner@wagon`, /public half/],
    [elliptic, /not an RSA key/],
    [pem("pkcs8").replace(/\n\w{30}/, "\n"), /damaged/],
  ] as const)
    await expect(keyFromPem(text, "x")).rejects.toThrow(words);
});

test("what the phone tells of itself becomes facts of the forecast", async () => {
  const adb = await enter(await phoneOnCable("siskin-healthy", true));
  const report = await reportOf(adb);
  expect(report).toMatchObject({
    maker: "Corvane",
    model: "Siskin 3",
    android: "12",
    patched: "2023-04-01",
    buildCode: "LK3.210805.004",
    battery: 64,
    charging: true,
    encryption: "file based",
    root: "none",
    filesystem: "ext4",
    discards: true,
    recovery: false,
    card: { path: "/storage/1A2B-3C4D" },
    bootloaderLocked: true,
    screenLocked: false,
  });
  expect(report.storage).toEqual({ size: 54_525_952 * 1024, free: 7_340_032 * 1024 });
  expect(factsFrom(report)).toEqual({
    android: 12,
    encryption: "file based",
    battery: 64,
    free: 7_340_032 * 1024,
    trims: true,
    debugging: true,
    root: false,
    letsIn: true,
    locked: false,
    bootloaderUnlocked: false,
    cardInside: true,
  });
  await adb.close();
});

test("the shared storage is listed and read, byte for byte and with its times; a part of a file too", async () => {
  const adb = await enter(await phoneOnCable("siskin-healthy", true));
  const { files, troubles, bytes } = await listShared(adb, () => {});
  const truth = practiceTruth().files.filter(({ state }) => state !== "erased");
  expect(files.map(({ path }) => path)).toEqual(
    expect.arrayContaining(truth.flatMap(({ path, state }) => (state === "present" ? [path] : []))),
  );
  expect(troubles).toEqual([]);
  expect(bytes).toBe(files.reduce((sum, { size }) => sum + size, 0));
  for (const { path, sha256, size } of truth.filter(({ state }) => state === "present").slice(0, 6)) {
    const file = files.find((one) => one.path === path);
    if (!file) throw new Error(path);
    const source = sharedFileSource(adb, file);
    const whole = await source.read(0, size);
    expect(hashOf(whole), path).toBe(sha256);
    expect(new Date(file.modified).getUTCFullYear()).toBe(2026);
    const from = Math.floor(size / 3);
    expect(hashOf(await source.read(from, 1000)), path).toBe(hashOf(whole.subarray(from, from + 1000)));
  }
  await adb.close();
});

test("a folder of many names comes in pieces, and stopping ends it, not the conversation", async () => {
  const adb = await crowdedPhone(served, 12_000);
  const told: number[] = [];
  const whole = await listShared(adb, (known) => told.push(known));
  expect([whole.files.length, whole.troubles]).toEqual([12_000, []]);
  expect(told.length).toBeGreaterThan(10);
  const { ended, milliseconds } = await stoppedAfter(adb, 2000);
  expect(ended).toEqual(new UnusableError("Listing was stopped."));
  expect(milliseconds).toBeLessThan(1000);
  expect((await runOnPhone(adb, "id")).out).toContain("uid=");
  await adb.close();
});

test("folders without end, too deep ones and absurd sizes are bounded and said", async () => {
  const { card } = await phoneOnCable("siskin-healthy", true);
  const files = new PhoneFiles();
  const hostile = Object.assign(files, {
    list: (path: string) =>
      /(\/loop){60}/.test(path)
        ? []
        : [
            { name: "loop", mode: 0o040_755, size: 0, modified: 1 },
            { name: "..", mode: 0o040_755, size: 0, modified: 1 },
            { name: "a/b", mode: 0o100_644, size: 1, modified: 1 },
            { name: "n".repeat(1100), mode: 0o100_644, size: 1, modified: 1 },
          ],
  });
  const phone = new PracticePhone(card, hostile, null, true);
  bringIn(phone);
  const adb = await enter(phone);
  const { files: found, troubles } = await listShared(adb, () => {});
  expect(found).toEqual([]);
  expect(troubles.some((one) => one.includes("lies too deep to be looked into"))).toBe(true);
  expect(troubles.some((one) => one.includes("too long to be asked for"))).toBe(true);
  await adb.close();
});

test("a raw partition is read with elevated access: from its start, and from places far apart", async () => {
  const phone = await phoneOnCable("tern-rooted", true);
  const adb = await enter(phone);
  expect(await takeElevatedAccess(adb)).toBe(true);
  const [userdata] = await partitionsOf(adb, "su");
  expect(userdata).toMatchObject({ name: "userdata", size: 50_331_648 });
  expect(await partitionsOf(adb, "plain")).toEqual([]);
  const source = partitionSource(adb, userdata, "su");
  const card = practiceBytes();
  for (const [offset, length] of [
    [0, 512],
    [512, 100_000],
    [40_000_123, 77],
    [2_000_000, 3_000_000],
    [50_331_648 - 1, 1],
  ])
    expect(Buffer.from(await source.read(offset, length)).equals(card.subarray(offset, offset + length)), `${offset}`).toBe(true);
  await expect(async () => source.read(50_331_648, 1)).rejects.toThrow(RangeError);
  phone.plug(false);
  // At once, and however often it is asked: a phone that is gone is no bad place, and nobody waits for ever.
  for (let asked = 0; asked < 3; asked++) await expect(source.read(0, 4096)).rejects.toThrow(UnusableError);
});

test("a worn partition: what lies beside a dead sector is read, and only the sector is lost", async () => {
  const card = practiceBytes();
  const files = new PhoneFiles();
  const faults: Fault[] = [
    { start: 3_000_320, length: 512, behaviour: "dead" },
    { start: 9_000_000, length: 100, behaviour: "dead" },
  ];
  files.addPartition(
    "/dev/block/by-name/userdata",
    faultySource(memorySource(card.subarray(0, 12_000_000)), faults, async () => {}),
  );
  const { card: about } = await phoneOnCable("tern-recovery", true);
  const phone = new PracticePhone(about, files, null, true);
  bringIn(phone);
  const adb = await enter(phone);
  const [partition] = await partitionsOf(adb, "plain");
  const source = patientSource(partitionSource(adb, partition, "plain"));
  const pieces: Uint8Array[] = [];
  for (let at = 0; at < source.size; at += 4_000_000) pieces.push(await source.read(at, 4_000_000));
  const whole = Buffer.concat(pieces);
  const lost = source.unreadable.list();
  expect(lost.reduce((sum, { length }) => sum + length, 0)).toBeLessThanOrEqual(4 * 512);
  for (const { start, length } of faults) expect(source.unreadable.overlap(start, length)).toBe(length);
  for (const { offset, length } of lost) whole.set(card.subarray(offset, offset + length), offset);
  expect(whole.equals(card.subarray(0, 12_000_000))).toBe(true);
  await adb.close();
});

test("a file that went away since it was listed costs that file, at once; the archive around it stays whole", async () => {
  const phone = await phoneOnCable("siskin-healthy", true);
  const adb = await enter(phone);
  const { files } = await listShared(adb, () => {});
  const [first, last] = [files[0], files[files.length - 1]];
  const gone = { path: "/DCIM/gone.mp4", size: 300_000_000, modified: 0 };
  const members = [first, gone, last].map((file) => ({ ...file, path: file.path.slice(1), content: sharedFileSource(adb, file) }));
  const archive = patientSource(tarSource("copy", members));
  for (let at = 0; at < archive.size; at += 4_000_000) await archive.read(at, Math.min(4_000_000, archive.size - at));
  const [lost, ...more] = archive.unreadable.list();
  expect(more).toEqual([]);
  expect(lost.length).toBe(gone.size);
  expect(lost.offset + lost.length).toBeLessThan(archive.size - last.size);
  await adb.close();
});

test("a recovery with debugging asks nobody and reads partitions; elevated access that is refused is not taken", async () => {
  const phone = await phoneOnCable("tern-recovery", false);
  const adb = await enter(phone);
  const report = await reportOf(adb);
  expect(report).toMatchObject({ recovery: true, root: "is root", encryption: "none" });
  expect(factsFrom(report)).toMatchObject({ customRecovery: true, encryption: "none" });
  expect((await partitionsOf(adb, "plain"))[0].name).toBe("userdata");
  const refusing = await phoneOnCable("tern-rooted", false);
  const entering = enter(refusing);
  await expect.poll(() => refusing.question?.kind).toBe("computer");
  refusing.tap("yes");
  const taking = entering.then(takeElevatedAccess);
  await expect.poll(() => refusing.question?.kind).toBe("root");
  refusing.tap("no");
  expect(await taking).toBe(false);
});

test("contacts, messages, calls, calendar and the media list come from the system's own providers", async () => {
  const adb = await enter(await phoneOnCable("siskin-healthy", true));
  const rows = Object.fromEntries(
    await Promise.all(
      (["contacts", "messages", "calls", "calendar", "media"] as const).map(async (kind) => [
        kind,
        (await askProvider(adb, mainQuery(kind))) ?? [],
      ]),
    ),
  );
  expect(rows.contacts.filter((row: { mimetype: string }) => row.mimetype.endsWith("/name"))).toHaveLength(8);
  expect(rows.contacts.find((row: { display_name: string }) => row.display_name === "Odd Fjelstad").in_visible_group).toBe("0");
  expect(rows.messages.map((row: { body: string }) => row.body)).toContain("Ha.\nDoors at seven,\nsee you there");
  expect(rows.messages.map((row: { body: string }) => row.body)).toContain("Two then. Row: 7 is free, body=soul, date=now");
  expect(rows.calls.at(-1)).toMatchObject({ number: "+47 400 00 107", type: "5", name: null });
  expect(rows.calendar).toHaveLength(4);
  expect(rows.media.filter((row: { is_trashed: string }) => row.is_trashed === "1").length).toBeGreaterThan(0);
  expect(await askProvider(adb, { kind: "calls", name: "calls", uri: "content://nobody", columns: ["_id"] })).toBeNull();
  await adb.close();
});

test("the easy places are looked at on the phone itself: bins with their last days, contacts that are only hidden", async () => {
  const adb = await enter(await phoneOnCable("siskin-healthy", true));
  const look = await lookAtEasyPlaces(adb);
  const binned = practiceTruth().files.filter(({ state }) => state === "binned");
  expect(look.binned.map(({ name }) => name).sort()).toEqual(binned.map(({ path }) => path.replace(/^.*\.trashed-\d+-/, "")).sort());
  for (const { lastDay } of look.binned) expect(new Date(lastDay ?? 0).getUTCFullYear()).toBe(2026);
  expect(look).toMatchObject({ contacts: 8, hidden: ["Odd Fjelstad", "Boat hall, caretaker"] });
  await adb.close();
});

test.each(["", "No result found.\n", "Row: 5 _id=1, body=x", "noise\nRow: 0 _id=1"])("%j holds no rows", (printed) => {
  const rows = new PrintedRows(["_id", "body"]);
  expect([...rows.push(printed), ...rows.end()]).toEqual([]);
});

test("an app backup comes only after the person confirms it on the phone", async () => {
  const phone = await phoneOnCable("siskin-healthy", false);
  const entering = enter(phone);
  await expect.poll(() => phone.question).not.toBeNull();
  phone.tap("yes");
  const adb = await entering;
  for (const [button, outcome] of [
    ["no", { ok: false, because: expect.stringContaining("refused") }],
    ["yes", { ok: true, encrypted: false }],
  ] as const) {
    const pieces: Uint8Array[] = [];
    const ending = backUpApps(adb, ["org.example.wagonnotes"], async (piece) => void pieces.push(piece));
    await expect.poll(() => phone.question?.about).toBe("org.example.wagonnotes");
    phone.tap(button);
    expect(await ending).toMatchObject(outcome);
    expect(Buffer.concat(pieces).toString("latin1").startsWith("ANDROID BACKUP\n5\n1\nnone\n")).toBe(button === "yes");
  }
  expect(await backUpApps(adb, ["x; rm -r /"], async () => {})).toMatchObject({ ok: false });
  await adb.close();
});

test("a phone that goes into another mode is gone for its computer", async () => {
  const phone = await phoneOnCable("tern-rooted", true);
  const adb = await enter(phone);
  enterMode(phone, "bootloader");
  await adb.disconnected;
  expect(phone.usb).toBe("fastboot");
});
