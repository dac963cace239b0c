import type { Step } from "./sights.ts";

/** Versions of Android at which the way to Developer options changed. Common practice, no source. */
const HIDDEN_FROM = 4.2;
const TAPS = 7;

/** How USB debugging is switched on, by the phone's Android version (null: not known, so the usual way). */
export function debuggingSteps(android: number | null): Step[] {
  const plain = (words: string): Step => ({ words, sight: null });
  if (android !== null && android < 4)
    return [{ words: "Settings → Applications → Development → USB debugging: on.", sight: "debugging is on" }];
  const open: Step = { words: "Settings → Developer options → USB debugging: on, and confirm.", sight: "debugging is on" };
  // Version 4 may be 4.0 or 4.1, where the options stand open, or later: look first.
  if (android !== null && android < Math.ceil(HIDDEN_FROM))
    return [
      plain(`Look in Settings for “Developer options”; where they are missing: About phone → tap “Build number” ${TAPS} times.`),
      open,
    ];
  return [plain(`Settings → About phone (on some: → Software information) → tap “Build number” ${TAPS} times.`), open];
}
