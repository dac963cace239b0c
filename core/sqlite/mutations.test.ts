import { expect, test } from "vitest";
import { mutateDatabases } from "../../test/database-mutations.ts";

// `npm run mutations` does 20,000, `npm run test:long` hundreds; a part of them stands guard here.
test("databases, logs, journals and backups with broken bytes: no crash, nothing endless", async () => {
  const report = await mutateDatabases(60, 3);
  expect(report.failures).toEqual([]);
  expect(report.files).toBeGreaterThan(1000);
});
