/** Milliseconds between two questions at most, however long nobody answers. */
const LONGEST = 60_000;

/** How long to wait before asking again: each time twice as long while nobody answers. */
export const nextWait = (usual: number, unanswered: number): number => Math.min(LONGEST, usual * 2 ** Math.min(unanswered, 20));
