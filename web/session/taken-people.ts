import { EVERYTHING_THERE } from "../../core/scan/scope.ts";
import { peopleWanted } from "../../core/wants/questions.ts";
import { isOver } from "../../core/work/work-state.ts";
import type { Session } from "./session.ts";
import { scanOf } from "./session-state.ts";
import { showWant } from "./show-want.ts";

/** People's data of a phone that were just taken are read to their end: there is nothing to choose. @returns why they cannot be read, or null */
export async function readTaken(session: Session, medium: number): Promise<string | null> {
  const because = await session.readPart(medium, "copy");
  if (because !== null) return because;
  await session.medium(medium)?.start({ depth: "deep", ...EVERYTHING_THERE });
  return new Promise((done) => {
    let stop = () => {};
    const look = () => {
      const state = session.store.getState().media.find((one) => one.medium.id === medium);
      const problem = state?.problem ?? null;
      if (state && problem === null && !isOver(scanOf(state).status)) return;
      stop();
      done(problem);
    };
    stop = session.store.subscribe(look);
    look();
  });
}

/** Goes to what was taken: to the want that it answers, or to the contacts. */
export function showTaken(session: Session, go: (path: string, told: object) => unknown): Promise<void> {
  const want = session.job?.intake.wants.find((one) => peopleWanted(one) !== null && one.kind !== "any kind");
  return want ? showWant(session, want, false, go) : Promise.resolve(void go(`/ticket/${session.id}/finds/contacts`, {}));
}
