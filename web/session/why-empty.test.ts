import { expect, test } from "vitest";
import { type KeptScan, newScan } from "../kept/kept-scan.ts";
import type { SourceRef } from "../kept/medium.ts";
import { whyNoErased } from "./why-empty.ts";

const volume = (filesystem: string, encryption: string | null = null): KeptScan["volumes"][number] => ({
  filesystem,
  label: "",
  start: 0,
  length: 1000,
  used: 0,
  free: 1000,
  encryption,
  condition: null,
});
const file: SourceRef = { kind: "file", name: "card.img", size: 1000, sample: "00" };
const folder: SourceRef = { kind: "folder", name: "CARD", size: 1000, sample: "00" };
const copy: SourceRef = { kind: "copy", name: "shared storage", size: 1000, sample: "00", serial: "TERN01" } as SourceRef;

type Case = readonly [string, SourceRef | null, Partial<KeptScan>, RegExp];
type Silent = readonly [string, SourceRef | null, Partial<KeptScan>, number, number];

function words(source: SourceRef | null, change: Partial<KeptScan>, present = 3, erased = 0) {
  const scan = newScan();
  const counts = { ...scan.counts, photo: { present, binned: 0, erased } };
  return whyNoErased({ ...scan, status: "done", depth: "deep", counts, ...change }, source);
}

test.each<Case>([
  [
    "shared storage off a phone",
    copy,
    { volumes: [volume("tar archive")] },
    /^Shared storage holds no erased things; a raw partition would\.$/,
  ],
  ["a folder", folder, { volumes: [volume("tar archive")] }, /an image of the whole card would/],
  ["a backup", file, { volumes: [volume("tar archive")] }, /rows that were deleted in its databases/],
  ["encrypted as a whole", file, { volumes: [volume("ext4", "whole disk")] }, /without its key/],
  ["a quick scan", file, { volumes: [volume("FAT32")], depth: "quick" }, /a deep one searches all free space/],
  ["a deep scan", file, { volumes: [volume("FAT32")] }, /^All free space was searched/],
  [
    "one volume of two that is not encrypted",
    file,
    { volumes: [volume("ext4", "whole disk"), volume("FAT32")] },
    /^All free space was searched/,
  ],
])("%s says why nothing erased is there", (_, source, change, sentence) => {
  expect(words(source, change)).toMatch(sentence);
});

test.each<Silent>([
  ["something erased was found", file, {}, 3, 1],
  ["the scan is not done", file, { status: "running" }, 3, 0],
  ["there is no storage", null, {}, 3, 0],
  ["nothing at all was found", file, { volumes: [volume("FAT32")] }, 0, 0],
])("nothing is said where %s", (_, source, change, present, erased) => {
  expect(words(source, change, present, erased)).toBeNull();
});
