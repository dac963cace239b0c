import { type Find, KIND_WORDS } from "../../core/finds/find.ts";
import type { FindGroup, Query } from "../../core/finds/find-query.ts";
import type { MediumState } from "../session/session-state.ts";
import { datedDay, longDay } from "../shared/words.ts";
import { folderWords } from "./folder-words.ts";

type What = Exclude<Query["group"], "nothing">;

const NOT_KNOWN: Record<What, string> = {
  day: "Day not known",
  folder: "Folder not known",
  camera: "No camera named",
  kind: "Kind not known",
};

/** What stands over a group of the wall; `isShort`: where there is little room. */
export function groupWords(what: What, of: FindGroup["of"], media: readonly MediumState[], isShort = false): string {
  if (of === null) return NOT_KNOWN[what];
  if (what === "day") return isShort ? datedDay(Number(of)) : longDay(Number(of));
  if (what === "kind") return KIND_WORDS[of as Find["kind"]];
  return what === "folder" ? folderWords(String(of), media) : String(of);
}
