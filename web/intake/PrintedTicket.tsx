import { wantWords } from "../../core/triage/intake.ts";
import { warnings } from "../../core/triage/warnings.ts";
import { useJob } from "../session/use-session.ts";

/** The ticket on paper, for the bag the phone lies in. Seen only when it is printed. */
export function PrintedTicket() {
  const { number, customer, device, intake, facts, createdAt } = useJob();
  const lines: [string, string][] = [
    ["Customer", customer],
    ["Phone or e-mail", intake.contact],
    ["Device", [device, facts.android && `Android ${facts.android}`].filter(Boolean).join(", ")],
    ["Condition", intake.symptoms.join(", ")],
    ["Locked", intake.lock ?? ""],
    ["Owner shown, agrees", intake.consentAt === null ? "" : new Date(intake.consentAt).toLocaleString("en-GB")],
    ["Wanted", intake.wants.map(wantWords).join("; ")],
    ["Lost", [intake.loss, intake.lostOn, intake.used && `used since: ${intake.used}`].filter(Boolean).join(", ")],
    ["Card inside", intake.card ?? ""],
    ["Backup", intake.backup ?? ""],
    ["Notes", intake.notes],
  ];
  return (
    <article className="hidden p-6 text-black print:block">
      <h1 className="font-mono text-3xl font-bold">Ticket {number}</h1>
      <p>{new Date(createdAt).toLocaleString("en-GB")}</p>
      <dl className="mt-4 grid grid-cols-[12rem_1fr] gap-y-1">
        {lines
          .filter(([, value]) => value)
          .map(([name, value]) => (
            <div key={name} className="contents">
              <dt>{name}</dt>
              <dd className="font-bold">{value}</dd>
            </div>
          ))}
      </dl>
      <ul className="mt-4 list-disc pl-5">
        {warnings(intake, facts).map(({ what }) => (
          <li key={what}>{what}</li>
        ))}
      </ul>
    </article>
  );
}
