import type { Find } from "../core/finds/find.ts";

/** A find as a scan gives it, with what a test cares about laid over it. */
export const aFind = (own: Partial<Find> & Pick<Find, "id">): Find => ({
  kind: "photo",
  format: "jpeg",
  state: "erased",
  condition: "whole",
  because: "walked through its coded picture to its end marker",
  checked: true,
  name: "SISK0001.JPG",
  path: null,
  size: own.extents?.reduce((sum, { length }) => sum + length, 0) ?? 1000,
  modified: null,
  taken: null,
  lastDay: null,
  width: 1024,
  height: 768,
  seconds: null,
  shown: 1,
  camera: null,
  place: null,
  sha256: null,
  extents: [{ offset: 0, length: 1000 }],
  volume: 0,
  inside: null,
  evidence: [],
  ...own,
});
