import { test } from "vitest";
import { BREAK_MEDIA } from "../../test/break-media.ts";
import { expectNarrowAndWidened, SCOPES } from "../../test/narrowed.ts";

test.each(BREAK_MEDIA)(
  "%s: narrowed to any of these and widened later it is everything at once",
  (_, open) => expectNarrowAndWidened(open, SCOPES),
  600_000,
);
