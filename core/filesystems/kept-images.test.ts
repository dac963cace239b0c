import { expect, test } from "vitest";
import { grade } from "../../test/grading.ts";
import { DISK_IMAGES, diskBytes, diskTruth } from "../../test/kept-images.ts";
import { mutateImage } from "../../test/mutations.ts";
import { hashOf, scanned } from "../../test/scanning.ts";
import { memorySource } from "../bytes/memory-source.ts";

/** Held against images that the Linux kernel's own drivers wrote, with an exact account of every file that was ever on them. */
test.each(DISK_IMAGES)(
  "%s: what is there and what was erased comes back, and nothing is invented",
  async (name) => {
    const bytes = diskBytes(name);
    const truth = diskTruth(name);
    expect(hashOf(bytes)).toBe(truth.image.sha256);
    const outcome = await scanned(memorySource(bytes, name));
    const grades = grade([...outcome.finds.values()], truth);
    expect(grades.recorded.files + grades.present.files).toBeGreaterThan(20);
    const { unrecorded, ...sure } = grades;
    for (const [part, graded] of Object.entries(sure)) expect("missed" in graded ? graded.missed : graded, part).toEqual([]);
    // By content alone nearly all come back; a few lie where text stood before, or have no length of their own.
    expect(unrecorded.missed.length).toBeLessThanOrEqual(Math.ceil(unrecorded.files * 0.15));
  },
  60_000,
);

test.each([
  ["sd-formatted", 50],
  ["sd-exfat", 25],
  ["userdata-ext4-unclean", 12],
  ["userdata-f2fs", 12],
] as const)(
  "%s with broken structures: no crash, nothing outside the source (%d cases, seed 5; npm run test:long has more)",
  async (name, cases) => {
    const report = await mutateImage(diskBytes(name), cases, 5);
    expect(report.failures).toEqual([]);
    // The lists are not given up at the first broken sector.
    expect(report.files).toBeGreaterThan(cases * 10);
  },
  120_000,
);
