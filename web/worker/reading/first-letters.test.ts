import { expect, test } from "vitest";
import { aRow } from "../../../test/records.ts";
import { forScreen, SHOWN_LETTERS } from "./first-letters.ts";

test("a text of 50 MB is handed to a screen by its first 64 KB, and says how long it is; the rest of the row is as it was", () => {
  const long = "x".repeat(50 * 1024 * 1024);
  const told = forScreen({
    ...aRow({ _id: 1, body: long, photo: new Uint8Array(9_000_000) }),
    versions: [{ columns: { body: `${long}y` }, evidence: { pass: "databases", what: "wal", page: 1, file: "wal", at: 0 } }],
  });
  expect(JSON.stringify({ ...told, columns: { ...told.columns, photo: null } }).length).toBeLessThan(2 * SHOWN_LETTERS + 2000);
  expect(told.columns.body).toMatch(/^x{65536}…\n\(these are the first .* of about .*; the file itself has all of it\)$/);
  expect(told.columns).toMatchObject({ _id: 1, photo: new Uint8Array(4096) });
  expect(told.sizes).toEqual({ photo: 9_000_000 });
});

test("rows without long values are handed on as they are", () => {
  const short = aRow({ _id: 2, body: "x".repeat(SHOWN_LETTERS), photo: new Uint8Array(10), none: null });
  expect(forScreen(short)).toBe(short);
});
