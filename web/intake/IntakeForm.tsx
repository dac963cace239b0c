import { COUNTRIES } from "../../core/stores/numbers.ts";
import type { Facts } from "../../core/triage/facts.ts";
import { CARDS, type Intake, LOCKS, LOSSES, SYMPTOMS, USES } from "../../core/triage/intake.ts";
import { useJob, useSession } from "../session/use-session.ts";
import { Choice } from "./Choice.tsx";
import { Field, INPUT } from "./Field.tsx";
import { Wants } from "./Wants.tsx";

const TIME = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" });

const REGIONS = new Intl.DisplayNames("en", { type: "region" });
const COUNTRIES_BY_NAME = COUNTRIES.map((code) => [code, REGIONS.of(code) ?? code] as const).sort(([, a], [, b]) => a.localeCompare(b));

/** The short form: everything is kept as it is typed, everything but the name may stay open. */
export function IntakeForm() {
  const session = useSession();
  const { customer, device, intake, facts } = useJob();
  const note = (change: Partial<Intake>) => session.changeIntake(change);
  const know = (change: Partial<Facts>) => session.changeFacts(change);
  const number = (text: string, least: number, most: number): number | null => {
    const value = Number(text);
    return text !== "" && Number.isInteger(value) && value >= least && value <= most ? value : null;
  };
  return (
    <section className="panel flex flex-col gap-3 overflow-y-auto p-4" aria-label="Intake">
      <div className="grid grid-cols-[1fr_1fr_9.5rem] gap-3">
        <Field label="Customer">
          <input
            className={INPUT}
            maxLength={120}
            value={customer}
            onChange={({ target }) => void session.changeJob({ customer: target.value })}
          />
        </Field>
        <Field label="Phone or e-mail">
          <input className={INPUT} maxLength={120} value={intake.contact} onChange={({ target }) => note({ contact: target.value })} />
        </Field>
        <Field label="Numbers of">
          <select
            className={INPUT}
            title="The country whose numbers stand without a country code"
            value={intake.country ?? ""}
            onChange={({ target }) => note({ country: target.value || null })}
          >
            <option value="">as they look</option>
            {COUNTRIES_BY_NAME.map(([code, name]) => (
              <option key={code} value={code}>
                {name}
              </option>
            ))}
          </select>
        </Field>
      </div>
      <div className="grid grid-cols-[1fr_5.5rem_6.5rem] gap-3">
        <Field label="Device">
          <input
            className={INPUT}
            maxLength={120}
            value={device}
            onChange={({ target }) => void session.changeJob({ device: target.value })}
          />
        </Field>
        <Field label="Android">
          <input
            type="number"
            min={1}
            max={99}
            className={INPUT}
            value={facts.android ?? ""}
            onChange={({ target }) => know({ android: number(target.value, 1, 99) })}
          />
        </Field>
        <Field label="Battery, %">
          <input
            type="number"
            min={0}
            max={100}
            className={INPUT}
            value={facts.battery ?? ""}
            onChange={({ target }) => know({ battery: number(target.value, 0, 100) })}
          />
        </Field>
      </div>
      <Choice
        question="What is wrong with it?"
        answers={SYMPTOMS}
        chosen={intake.symptoms}
        onChange={(one, chosen) =>
          note({ symptoms: chosen ? [...intake.symptoms, one] : intake.symptoms.filter((other) => other !== one) })
        }
      />
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
        <One question="Locked?" answers={LOCKS} chosen={intake.lock} onChange={(lock) => note({ lock })} />
        <label className="flex h-8 cursor-pointer items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-sm rounded-[4px] border-second"
            checked={intake.consentAt !== null}
            onChange={({ target }) => note({ consentAt: target.checked ? Date.now() : null })}
          />
          owner shown, and agrees{intake.consentAt !== null && ` · ${TIME.format(intake.consentAt)}`}
        </label>
      </div>
      <Wants wants={intake.wants} onChange={(wants) => note({ wants })} />
      <One question="How was it lost?" answers={LOSSES} chosen={intake.loss} onChange={(loss) => note({ loss })} />
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
        <Field label="When?">
          <input
            type="date"
            className={INPUT}
            value={intake.lostOn ?? ""}
            onChange={({ target }) => note({ lostOn: target.value === "" ? null : target.value })}
          />
        </Field>
        <One question="Used since?" answers={USES} chosen={intake.used} onChange={(used) => note({ used })} />
        <One question="Card inside?" answers={CARDS} chosen={intake.card} onChange={(card) => note({ card })} />
        <One question="A backup?" answers={CARDS} chosen={intake.backup} onChange={(backup) => note({ backup })} />
      </div>
      <Field label="Notes">
        <textarea
          className={`${INPUT} h-16 py-1.5`}
          maxLength={2000}
          value={intake.notes}
          onChange={({ target }) => note({ notes: target.value })}
        />
      </Field>
    </section>
  );
}

/** A question with one answer at most. */
function One<T extends string>({
  question,
  answers,
  chosen,
  onChange,
}: {
  question: string;
  answers: readonly T[];
  chosen: T | null;
  onChange: (answer: T | null) => void;
}) {
  return <Choice question={question} answers={answers} chosen={chosen ? [chosen] : []} onChange={(one, is) => onChange(is ? one : null)} />;
}
