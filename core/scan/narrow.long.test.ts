import { test } from "vitest";
import { BREAK_MEDIA } from "../../test/break-media.ts";
import { expectBrokenNarrow, expectNarrowAndWidened, SCOPES } from "../../test/narrowed.ts";

test.each(BREAK_MEDIA)(
  "%s: narrowed to any of these and widened later it is everything at once",
  (_, open) => expectNarrowAndWidened(open, SCOPES),
  600_000,
);

test.each([
  ["theatre-card", [1, 2]],
  ["sd-exfat", [3]],
])("%s, broken, narrowed and as it is widened, comes to the same end", (name, scopes) => expectBrokenNarrow(name, scopes), 600_000);
