import type { Extent } from "../core/bytes/extents.ts";
import type { Trouble } from "../core/bytes/trouble.ts";
import type { Find } from "../core/finds/find.ts";
import type { VolumeInfo } from "../core/medium/volume.ts";
import type { Scanned } from "./run-scan.ts";

/** The JSON lines that `scan` prints. */
const pairs = (extents: readonly Extent[]) => extents.map(({ offset, length }) => [offset, length]);
const iso = (time: number | null) => (time === null ? null : new Date(time).toISOString());

export const findLine = (find: Find) => ({
  type: "find",
  id: find.id,
  kind: find.kind,
  format: find.format,
  state: find.state,
  condition: find.condition,
  name: find.name,
  path: find.path,
  size: find.size,
  modified: iso(find.modified),
  taken: iso(find.taken),
  sha256: find.sha256,
  extents: pairs(find.extents),
  volume: find.volume,
  inside: find.inside,
  evidence: [...find.evidence, { pass: "reconcile", what: find.because, at: find.extents[0]?.offset ?? 0 }],
});

export const volumeLine = ({ index, filesystem, start, length, label, encrypted, used, free }: VolumeInfo) => ({
  type: "volume",
  index,
  filesystem,
  start,
  length,
  label,
  encrypted,
  used,
  free,
});

export const troubleLine = (trouble: Trouble) => ({ type: "trouble", ...trouble });

export function summaryLine(scanned: Scanned) {
  const finds: Partial<Record<Find["kind"], Partial<Record<Find["state"], number>>>> = {};
  for (const { kind, state } of scanned.finds.values()) {
    const states = (finds[kind] ??= {});
    states[state] = (states[state] ?? 0) + 1;
  }
  return {
    type: "summary",
    seconds: Math.round(scanned.seconds * 1000) / 1000,
    bytes: scanned.bytes,
    bytesRead: scanned.bytesRead,
    unreadable: pairs(scanned.unreadable),
    finds,
  };
}
