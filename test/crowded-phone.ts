import { performance } from "node:perf_hooks";
import type { Adb } from "@yume-chan/adb";
import { memorySource } from "../core/bytes/memory-source.ts";
import { introduce, packetsOver } from "../core/phones/adb/connection.ts";
import { keyRing, makeKey } from "../core/phones/adb/keys.ts";
import { listShared } from "../core/phones/adb/shared-storage.ts";
import { bringIn } from "../standins/hands.ts";
import { PhoneFiles } from "../standins/phone/files.ts";
import { PracticePhone } from "../standins/phone/practice-phone.ts";
import { phoneOnCable, type Served, tcpPipe } from "./practice-phones.ts";

/** A phone whose shared storage is one folder of so many names, and a conversation with it. */
export async function crowdedPhone(served: Served, names: number): Promise<Adb> {
  const files = new PhoneFiles();
  const content = memorySource(new Uint8Array(3));
  for (let number = 0; number < names; number++) files.addFile(`/sdcard/Crowd/${number}.txt`, content, 1);
  const { card } = await phoneOnCable("siskin-healthy", true);
  const phone = new PracticePhone(card, files, null, true);
  bringIn(phone);
  const pipe = await tcpPipe(await served.adb(phone));
  return introduce(phone.card.serial, packetsOver(pipe), keyRing([await makeKey("bench@jubar")]), () => {});
}

/** Lists it, and stops when so many names are known. @returns how it ended, and after how many milliseconds */
export async function stoppedAfter(adb: Adb, names: number): Promise<{ ended: unknown; milliseconds: number }> {
  const stop = new AbortController();
  let at = 0;
  const listing = listShared(
    adb,
    (known) => {
      if (known < names || stop.signal.aborted) return;
      at = performance.now();
      stop.abort();
    },
    { signal: stop.signal },
  );
  const ended = await listing.catch((cause: unknown) => cause);
  return { ended, milliseconds: performance.now() - at };
}
