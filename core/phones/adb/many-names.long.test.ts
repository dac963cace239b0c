import { afterAll, expect, test } from "vitest";
import { crowdedPhone, stoppedAfter } from "../../../test/crowded-phone.ts";
import { Served } from "../../../test/practice-phones.ts";
import { UnusableError } from "../../bytes/source.ts";
import { listShared } from "./shared-storage.ts";
import { runOnPhone } from "./shell.ts";

const served = new Served();
afterAll(() => served.close());

test("a folder of a million names comes in pieces up to the bound of a walk, and stopping ends it at once", async () => {
  const adb = await crowdedPhone(served, 1_000_000);
  const told: number[] = [];
  const whole = await listShared(adb, (known) => told.push(known));
  // The walk is bounded, and what is left out is said.
  expect(whole.files).toHaveLength(499_999);
  expect(whole.troubles).toEqual(["only the first 500000 files and folders were listed"]);
  expect(told.length).toBeGreaterThan(498);
  const { ended, milliseconds } = await stoppedAfter(adb, 300_000);
  expect(ended).toEqual(new UnusableError("Listing was stopped."));
  expect(milliseconds).toBeLessThan(1000);
  expect((await runOnPhone(adb, "id")).out).toContain("uid=");
  await adb.close();
}, 300_000);
