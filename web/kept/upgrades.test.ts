import "fake-indexeddb/auto";
import Dexie from "dexie";
import { expect, test } from "vitest";
import { unknownFacts } from "../../core/triage/facts.ts";
import { blankIntake } from "../../core/triage/intake.ts";
import { newScan } from "./job.ts";

/** A job as version 1 of the database kept it. */
const OLD_JOB = {
  number: "0101",
  customer: "Ilse Marwitz",
  device: "Corvane Siskin 3",
  wants: "photos 2–9 May, the Lantern poster",
  createdAt: 1,
  touchedAt: 2,
  source: { kind: "file", name: "card.img", size: 100, sample: "00" },
  scan: newScan(),
  tray: ["e1"],
  handedOver: null,
};

test("a job kept by version 1 is opened with its wants as an intake, and nothing else changed", async () => {
  const old = new Dexie("jubar");
  old.version(1).stores({ jobs: "++id, touchedAt", chunks: "[job+number], job" });
  const id = await old.table("jobs").add(OLD_JOB);
  old.close();
  const { loadJob } = await import("./database.ts");
  const { wants: _, ...kept } = OLD_JOB;
  const want = (words: string) => ({ kind: "any kind", from: null, to: null, words });
  expect(await loadJob(Number(id))).toEqual({
    ...kept,
    id,
    intake: { ...blankIntake(), wants: [want("photos 2–9 May"), want("the Lantern poster")] },
    facts: unknownFacts(),
    phone: null,
    ledger: [],
  });
});
