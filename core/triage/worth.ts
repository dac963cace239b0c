import { type Facts, likelyEncryption } from "./facts.ts";
import type { Intake, Wanted } from "./intake.ts";

/** What lies at the end of a way, as far as it decides what can be had by it. */
export type Gives = "card" | "present files" | "debugging" | "blocks" | "backup";

const FILES: readonly Wanted[] = ["photos", "videos", "sound", "documents"];

/** How much of one want a way gives: nothing, a little, much, all that there is to be had. Common practice, no source. */
type Worth = 0 | 1 | 2 | 3;

function worthOfOne(gives: Gives, kind: Wanted, isLost: boolean, intake: Intake, facts: Facts): Worth {
  if (gives === "backup") return 1;
  if (FILES.includes(kind)) {
    if (gives === "card") return intake.card === "no" ? 0 : 3;
    if (!isLost) return gives === "present files" ? 2 : 3;
    if (gives === "present files") return 0;
    // Without its key an erased file's blocks are noise: what bins and small copies hold comes over debugging too.
    return gives === "blocks" && likelyEncryption(facts).is !== "file based" ? 3 : 1;
  }
  if (gives === "card" || gives === "present files") return 0;
  // What the system's own providers tell; rows that were erased, and other apps' databases, want more.
  if (gives === "debugging") return kind === "chats" ? 1 : isLost ? 2 : 3;
  return 3;
}

/** How much a way gives of all that is wanted; where nothing is asked for yet, of what usually is. 0: nothing of it. */
export function worthOf(gives: Gives, intake: Intake, facts: Facts): number {
  const asked = intake.wants.map(({ kind }) => kind);
  const wanted = asked.length === 0 || asked.includes("any kind") ? (["photos", "messages"] as const) : asked;
  const isLost = intake.loss !== "not lost, only out of reach" && intake.loss !== "fall or water";
  return wanted.reduce((sum, kind) => sum + worthOfOne(gives, kind, isLost, intake, facts), 0);
}
