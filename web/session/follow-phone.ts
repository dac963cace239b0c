import { factsFrom } from "../../core/phones/adb/phone-report.ts";
import { observed } from "../../core/phones/ledger.ts";
import type { PhoneView } from "../../core/phones/phone-view.ts";
import type { Facts } from "../../core/triage/facts.ts";
import type { Job } from "../kept/job.ts";
import { bestOf, onPhones } from "../phones/phones.ts";

type Change = Partial<Pick<Job, "facts" | "ledger">>;

/** What a phone's new state means for its ticket: facts that it told, and changes for the ledger. Null: nothing new. */
function changeBy(job: Job, before: PhoneView | null, after: PhoneView, at: number): Change | null {
  const ledger = observed(job.ledger, before, after, at);
  const facts = { ...job.facts, ...told(after) };
  const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
  const change: Change = { ...(!same(ledger, job.ledger) && { ledger }), ...(!same(facts, job.facts) && { facts }) };
  return Object.keys(change).length > 0 ? change : null;
}

function told({ report, bootloader, download, state }: PhoneView): Partial<Facts> {
  return {
    // Who asks its owner has debugging on, and runs.
    ...(state === "waiting for the person to allow" && { debugging: true, letsIn: false }),
    ...(report && factsFrom(report)),
    ...(bootloader?.unlocked !== null && bootloader && { bootloaderUnlocked: bootloader.unlocked }),
    ...(download && { battery: download.battery }),
  };
}

/** Follows the ticket's phone for as long as the page lives. @returns what to call when the ticket itself changed */
export function followPhone(job: () => Job | null, change: (change: Change) => void): () => void {
  let before: PhoneView | null = null;
  let all: readonly PhoneView[] = [];
  const look = () => {
    const ticket = job();
    if (!ticket?.phone) return;
    if (before?.serial !== ticket.phone) before = null;
    const seen = bestOf(all, ticket.phone);
    const after = seen && seen.state !== "nothing attached" ? seen : gone(before);
    if (!after || after === before) return;
    const news = changeBy(ticket, before, after, Date.now());
    before = after;
    if (news) change(news);
  };
  onPhones((phones) => {
    all = phones;
    look();
  });
  return look;
}

const gone = (before: PhoneView | null): PhoneView | null =>
  before && before.state !== "nothing attached" ? { ...before, state: "nothing attached", elevated: false } : before;
