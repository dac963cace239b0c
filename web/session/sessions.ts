import { onPhones } from "../phones/phones.ts";
import { openDesks } from "./desks.ts";
import { followPhone } from "./follow-phone.ts";
import { Session } from "./session.ts";

const sessions = new Map<number, Session>();

/** A ticket was removed: its workers end. */
export function forgetSession(id: number): void {
  const session = sessions.get(id);
  sessions.delete(id);
  session?.close();
  session?.desks.close();
}

/** The session of a ticket: one as long as the page lives, so that a scan goes on while other screens are looked at. */
export function sessionOf(id: number): Session {
  const known = sessions.get(id);
  if (known) return known;
  const session = new Session(id, openDesks());
  sessions.set(id, session);
  const lookAtPhone = followPhone(
    () => session.job,
    (change) => void session.changeJob(change),
  );
  // Storage that is read off a phone opens by itself when the phone is back.
  onPhones(() => {
    for (const { medium, storage } of session.store.getState().media)
      if (typeof storage === "object" && storage.kind === "needs phone") void session.reopen(medium.id);
  });
  // A ticket that was just loaded, or was given its phone, looks at it at once.
  session.store.subscribe(lookAtPhone);
  return session;
}
