import { u16be, u32be } from "../../bytes/layout.ts";
import { DATABASE } from "../database-formats.ts";
import type { FollowedType } from "../file-type.ts";
import { format } from "../format.ts";
import { ascii, some, within } from "./follow.ts";

const be32 = u32be(0);
const be16 = u16be(0);
const database = format(DATABASE, "database", { endings: ["db", "sqlite", "sqlite3", "db3"], preview: "list", holds: "rows" });

/** "Database File Format" of SQLite, §1.3: page size at byte 16, pages at byte 28. */
export const sqlite: FollowedType = {
  reach: "followed",
  formats: [database],
  firstBytes: [0x53],
  beginsBytes: 32,
  begins: (bytes, at) => ascii(bytes, at, "SQLite format 3\0"),
  async follow(content) {
    const head = await some(content, 0, 32);
    const stored = be16(head, 16);
    const page = stored === 1 ? 65_536 : stored;
    const length = page * be32(head, 28);
    return page < 512 || (page & (page - 1)) !== 0 || length === 0 ? null : within(database, content, length);
  },
};
