/** Versions of Android at which the way to Developer options changed. Common practice, no source. */
const HIDDEN_FROM = 4.2;
const TAPS = 7;

/** How USB debugging is switched on, by the phone's Android version (null: not known, so the usual way). */
export function debuggingSteps(android: number | null): string[] {
  if (android !== null && android < 4) return ["Settings → Applications → Development → USB debugging: on."];
  const open = "Settings → Developer options → USB debugging: on, and confirm.";
  // Version 4 may be 4.0 or 4.1, where the options stand open, or later: look first.
  if (android !== null && android < Math.ceil(HIDDEN_FROM))
    return [`Look in Settings for “Developer options”; where they are missing: About phone → tap “Build number” ${TAPS} times.`, open];
  return [`Settings → About phone (on some: → Software information) → tap “Build number” ${TAPS} times.`, open];
}
