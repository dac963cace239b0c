import { useState } from "react";
import type { PhoneView } from "../../core/phones/phone-view.ts";
import { differences } from "../../core/triage/settled.ts";
import { usePhone, usePhones } from "../phones/phones.ts";
import { nextWords, reportWords, stateWords } from "../phones/state-words.ts";
import { useJob, useSession } from "../session/use-session.ts";

/** Which phone on the bench is this ticket's, and how does it stand? */
export function TicketPhone() {
  const session = useSession();
  const [asked, ask] = useState<PhoneView | null>(null);
  const take = (phone: PhoneView) => {
    ask(null);
    void session.changeJob({ phone: phone.serial });
  };
  const job = useJob();
  const phone = usePhone(job.phone);
  const attached = usePhones().filter(({ state, serial }) => state !== "nothing attached" && serial !== job.phone);
  return (
    <section className="panel px-4 py-2.5" aria-label="The phone of this ticket">
      {phone && job.phone ? (
        <div className="flex items-baseline gap-3">
          <p className="min-w-0 flex-1">
            <strong role="status">{stateWords(phone)}</strong>{" "}
            <span className="text-[13.5px] text-second">
              {phone.name}, <span className="font-mono">{phone.serial}</span> · {reportWords(phone) || nextWords(phone)}
            </span>
          </p>
          <button type="button" className="button h-7" onClick={() => void session.changeJob({ phone: null })}>
            Another phone
          </button>
        </div>
      ) : (
        <p>
          <strong>{job.phone ? "Nothing attached." : "No phone is taken into this ticket yet."}</strong>{" "}
          <span className="text-[13.5px] text-second">Plug it in; it shows up here by itself.</span>
        </p>
      )}
      {phone &&
        differences(job.intake, job.facts).map((one) => (
          <p key={one} className="mt-1 rounded-field bg-warning px-3 py-1 text-[13.5px] text-warning-content">
            {one}
          </p>
        ))}
      {(!job.phone || !phone || phone.state === "nothing attached") && attached.length > 0 && (
        <ul className="mt-1.5 flex flex-wrap gap-2">
          {attached.map((one) => (
            <li key={one.id}>
              <button type="button" className="button button-lamp h-8" onClick={() => (isOther(job.device, one) ? ask(one) : take(one))}>
                This is the phone: {one.name}, {one.serial}
              </button>
            </li>
          ))}
        </ul>
      )}
      {asked && (
        <div role="alert" className="mt-2 flex flex-wrap items-center gap-2 rounded-field bg-warning px-3 py-2 text-warning-content">
          <p className="min-w-0 flex-1">
            <strong>This is another model.</strong> The ticket is about {job.device}; this phone says it is{" "}
            {asked.report?.model ?? asked.name}.
          </p>
          <button type="button" className="button h-8" onClick={() => ask(null)}>
            Leave it
          </button>
          <button type="button" className="button h-8" onClick={() => take(asked)}>
            Take it all the same
          </button>
        </div>
      )}
    </section>
  );
}

/** Does the ticket speak of another model than this phone says it is? A ticket without a device, or one in other words, asks nothing. */
function isOther(device: string, { report, name }: PhoneView): boolean {
  const plain = (words: string) =>
    words
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, " ")
      .trim();
  const model = plain(report?.model ?? name);
  return device.trim() !== "" && model !== "" && !plain(device).includes(model);
}
