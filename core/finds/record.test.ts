import { expect, test } from "vitest";
import { NAMELESS, tableWords } from "./record.ts";

test("a row's table in words: by its name, by its number where that is lost, and of none where it is no row", () => {
  expect(tableWords({ table: "sms", id: "e0.1f.sms" })).toBe("sms");
  expect(tableWords({ table: `${NAMELESS}4`, id: `e0.1f.${NAMELESS}4` })).toBe(`${NAMELESS}4`);
  expect(tableWords({ table: null, id: `e0.1f.${NAMELESS}12` })).toBe("table 12, no name");
  expect(tableWords({ table: null, id: "e7.3" })).toBeNull();
});
