import fc from "fast-check";
import { expect, test } from "vitest";
import { MappingSchema } from "./mapping.ts";
import { SHIPPED } from "./shipped.ts";
import { isPlainPattern } from "./table-pattern.ts";

test.each([
  String.raw`^talk_0*(\d+)$`,
  "^talk_(.+)_rows$",
  "^(zt_.+)$",
  String.raw`^a\.b-c\$(.+)$`,
  "^t([0-9a-f]{8})$",
  "^Gespräch (.+)$",
  "t(.)",
])("%s is taken", (pattern) => {
  expect(isPlainPattern(pattern)).toBe(true);
});

test.each([
  // Each of these takes ages over a name that does not fit, or is none at all.
  "^(a+)+$",
  "^(a|a)*$",
  "^((a*)*)*$",
  String.raw`^(a)\1$`,
  "^(?=a)(.+)$",
  "^.*.*.*.*(a)$",
  "^t(.+",
  "^t.+$",
  "^t(.+)(.+)$",
  "^t([z-a])$",
  "^t(a{5,2})$",
  "a".repeat(400),
])("%s is not", (pattern) => {
  expect(isPlainPattern(pattern)).toBe(false);
});

test("a mapping that brings such a pattern is refused with a reason, the shipped ones are taken", () => {
  const [shipped] = SHIPPED.filter(({ fits }) => fits.tables.some((one) => "pattern" in one));
  const hostile = {
    ...shipped,
    fits: { ...shipped.fits, tables: shipped.fits.tables.map((one) => ("pattern" in one ? { ...one, pattern: "^(a+)+$" } : one)) },
  };
  const refused = MappingSchema.safeParse(hostile);
  expect(refused.success).toBe(false);
  expect(JSON.stringify(refused.error?.issues)).toContain("has one group");
  expect(MappingSchema.safeParse(shipped).success).toBe(true);
});

test("whatever is taken can be tried on a long name at once", () => {
  const part = fc.constantFrom("a", ".", "+", "*", "?", "(", ")", "[a-z]", String.raw`\d`, String.raw`\.`, "{2}", "|", "^", "$", "x{1,3}");
  fc.assert(
    fc.property(fc.array(part, { maxLength: 12 }), fc.nat(12), (parts, at) => {
      const pattern = [...parts.slice(0, at), "(", ...parts.slice(at), ")"].join("");
      if (!isPlainPattern(pattern)) return;
      // It is one of ECMAScript, and one that backtracked without end would never come back.
      expect(new RegExp(pattern, "u").exec(`${"a".repeat(150)}!`)?.length ?? 2).toBe(2);
    }),
    { numRuns: 3000 },
  );
});
