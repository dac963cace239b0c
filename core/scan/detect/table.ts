import { checkedContents } from "./checked-contents.ts";
import type { MakeDetector } from "./detector.ts";
import { followedContents } from "./followed-contents.ts";
import { formerLists } from "./former-lists.ts";
import { lostLists } from "./lost-lists.ts";
import { strayPages } from "./stray-pages.ts";

/**
 * Who looks at free space, in the order in which they are asked at each sector. What the sectors tell only together is asked for in the same
 * order. Adding one is adding its file and its line here.
 */
export const DETECTORS: readonly MakeDetector[] = [checkedContents, strayPages, followedContents, lostLists, formerLists];
