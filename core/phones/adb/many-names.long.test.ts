import { afterAll, expect, test } from "vitest";
import { bringIn } from "../../../standins/hands.ts";
import { PhoneFiles } from "../../../standins/phone/files.ts";
import { PracticePhone } from "../../../standins/phone/practice-phone.ts";
import { phoneOnCable, Served, tcpPipe } from "../../../test/practice-phones.ts";
import { memorySource } from "../../bytes/memory-source.ts";
import { introduce, packetsOver } from "./connection.ts";
import { keyRing, makeKey } from "./keys.ts";
import { listShared } from "./shared-storage.ts";
import { runOnPhone } from "./shell.ts";

const served = new Served();
afterAll(() => served.close());

test("a folder of a million names comes in pieces, and stopping ends it at once", async () => {
  const names = 1_000_000;
  const files = new PhoneFiles();
  for (let number = 0; number < names; number++) files.addFile(`/sdcard/Crowd/${number}.txt`, memorySource(new Uint8Array(3)), 1);
  const { card } = await phoneOnCable("siskin-healthy", true);
  const phone = new PracticePhone(card, files, null, true);
  bringIn(phone);
  const pipe = await tcpPipe(await served.adb(phone));
  const adb = await introduce(phone.card.serial, packetsOver(pipe), keyRing([await makeKey("bench@jubar")]), () => {});
  const told: number[] = [];
  const whole = await listShared(adb, (known) => told.push(known));
  // The walk is bounded, and what is left out is said.
  expect(whole.files).toHaveLength(499_999);
  expect(whole.troubles).toEqual(["only the first 500000 files and folders were listed"]);
  expect(told.length).toBeGreaterThan(498);
  const stop = new AbortController();
  let at = 0;
  const stopping = listShared(
    adb,
    (known) => {
      if (known < 5000 || stop.signal.aborted) return;
      at = performance.now();
      stop.abort();
    },
    { signal: stop.signal },
  );
  await expect(stopping).rejects.toThrow("Listing was stopped.");
  expect(performance.now() - at).toBeLessThan(1000);
  // The conversation with the phone goes on.
  expect((await runOnPhone(adb, "id")).out).toContain("uid=");
  await adb.close();
}, 300_000);
