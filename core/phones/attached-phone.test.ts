import { afterAll, expect, test } from "vitest";
import { serveFastboot } from "../../standins/fastboot/fastboot.ts";
import { enterMode } from "../../standins/hands.ts";
import type { PracticePhone } from "../../standins/phone/practice-phone.ts";
import { phoneOnCable, Served, tcpPipe } from "../../test/practice-phones.ts";
import { packetsOver } from "./adb/connection.ts";
import { makeKey } from "./adb/keys.ts";
import { AttachedPhone, type Line } from "./attached-phone.ts";

/** The logic of an attached phone, held against practice phones without any browser. */
const served = new Served();
afterAll(() => served.close());
const own = await makeKey("bench@jubar");
const speaker = { keys: async () => [own], now: () => 1_800_000_000_000 };

function attached(serial: string) {
  const states: string[] = [];
  const phone: AttachedPhone = new AttachedPhone("practice/x", "Siskin 3", "practice", serial, speaker, () => {
    if (states.at(-1) !== phone.view.state) states.push(phone.view.state);
  });
  return { phone, states };
}
const daemonOf = (phone: PracticePhone): Line => ({
  kind: "daemon",
  open: async () => {
    const pipe = await tcpPipe(await served.adb(phone));
    return { connection: packetsOver(pipe), hangUp: () => pipe.close() };
  },
});
/** The phone is told to ask a moment before its screen shows the question: a finger waits for that. */
const answer = async (practice: PracticePhone, button: "yes" | "no"): Promise<void> => {
  await expect.poll(() => practice.question !== null).toBe(true);
  practice.tap(button);
};
const until = (phone: AttachedPhone, state: string) => expect.poll(() => phone.view.state).toBe(state);

test("from nothing attached, over its question, to ready, with what it tells of itself; and gone again", async () => {
  const practice = await phoneOnCable("siskin-healthy", false);
  const { phone, states } = attached(practice.card.serial);
  phone.cable({ kind: "none" });
  phone.cable({ kind: "mute" });
  await until(phone, "attached, not answering");
  phone.cable(daemonOf(practice));
  await until(phone, "waiting for the person to allow");
  expect(phone.view.asked).toBe(true);
  await answer(practice, "yes");
  await until(phone, "ready");
  expect(phone.view.report).toMatchObject({ model: "Siskin 3" });
  expect(phone.identity).toMatchObject({ serial: practice.card.serial, model: "Siskin 3", key: expect.stringMatching(/^[0-9A-F:]{47}$/) });
  phone.cable({ kind: "none" });
  await until(phone, "nothing attached");
  expect(phone.view).toMatchObject({ report: null, elevated: false });
  expect(phone.adb).toBeNull();
  expect(states).toEqual(["attached, not answering", "waiting for the person to allow", "ready", "nothing attached"]);
});

test("a phone that refuses stays waiting; asked again it may say yes", async () => {
  const practice = await phoneOnCable("siskin-healthy", false);
  const { phone } = attached(practice.card.serial);
  phone.cable(daemonOf(practice));
  await until(phone, "waiting for the person to allow");
  await answer(practice, "no");
  void phone.askAgain();
  await answer(practice, "yes");
  await until(phone, "ready");
  phone.cable({ kind: "none" });
});

test("a line that breaks is said in plain words, and a later answer of it is not heard", async () => {
  const { phone } = attached("X1");
  let answer: (cause: unknown) => void = () => {};
  const late = new Promise<never>((_, reject) => {
    answer = reject;
  });
  phone.cable({ kind: "daemon", open: () => late });
  phone.cable({ kind: "none" });
  answer(new Error("too late"));
  await new Promise((later) => setTimeout(later, 20));
  expect(phone.view).toMatchObject({ state: "nothing attached", problem: null });
  phone.cable({ kind: "daemon", open: () => Promise.reject(new Error("ECONNREFUSED")) });
  await until(phone, "attached, not answering");
  expect(phone.view.problem).toBe("The phone does not answer: ECONNREFUSED.");
});

test("in the bootloader it says what it is; what needs a debugging daemon is refused there", async () => {
  const practice = await phoneOnCable("tern-stuck", true).catch(() => null);
  const phoneCard = practice ?? (await phoneOnCable("siskin-healthy", true));
  enterMode(phoneCard, "bootloader");
  const port = await served.on(serveFastboot(phoneCard));
  const { phone } = attached(phoneCard.card.serial);
  phone.cable({ kind: "fastboot", open: () => tcpPipe(port) });
  await until(phone, "in bootloader");
  expect(phone.view.bootloader?.product).toBeTruthy();
  expect(await phone.takeElevatedAccess()).toMatchObject({ ok: false });
  expect(await phone.repair(new Uint8Array(4), () => {})).toMatchObject({ ok: false });
  phone.cable({ kind: "none" });
});
