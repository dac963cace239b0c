import { useLiveQuery } from "dexie-react-hooks";
import { CopyRecord } from "../kept/copy.ts";
import { database } from "../kept/database.ts";

/** What a job reads of its phone, as it is kept; null where nothing was taken yet. */
export const useCopy = (job: number): CopyRecord | null =>
  useLiveQuery(async () => CopyRecord.safeParse(await database.copies.get(job)).data ?? null, [job]) ?? null;
