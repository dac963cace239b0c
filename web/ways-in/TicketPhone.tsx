import { usePhone, usePhones } from "../phones/phones.ts";
import { nextWords, reportWords, stateWords } from "../phones/state-words.ts";
import { useJob, useSession } from "../session/use-session.ts";

/** Which phone on the bench is this ticket's, and how does it stand? */
export function TicketPhone() {
  const session = useSession();
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
      {(!job.phone || !phone || phone.state === "nothing attached") && attached.length > 0 && (
        <ul className="mt-1.5 flex flex-wrap gap-2">
          {attached.map((one) => (
            <li key={one.id}>
              <button type="button" className="button button-lamp h-8" onClick={() => void session.changeJob({ phone: one.serial })}>
                This is the phone: {one.name}, {one.serial}
              </button>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
