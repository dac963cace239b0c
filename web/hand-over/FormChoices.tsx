import type { Forms } from "../../core/handover/people/plan.ts";

/** What each form is called, in the order in which they stand. */
const CHOICES: { readonly [K in keyof Forms]: readonly (readonly [Forms[K][number], string])[] } = {
  contacts: [
    ["vcard 4.0", "vCard 4.0"],
    ["vcard 3.0", "vCard 3.0, for older phones"],
    ["csv", "table (CSV)"],
    ["json", "JSON"],
  ],
  messages: [
    ["html", "a page for each conversation"],
    ["csv", "table (CSV)"],
    ["json", "JSON"],
  ],
  calls: [
    ["csv", "table (CSV)"],
    ["json", "JSON"],
  ],
  events: [
    ["ical", "iCalendar"],
    ["csv", "table (CSV)"],
    ["json", "JSON"],
  ],
};
const NAMES: Readonly<Record<keyof Forms, string>> = { contacts: "Contacts", messages: "Messages", calls: "Calls", events: "Calendar" };

interface Props {
  readonly forms: Forms;
  /** Kinds that something is chosen of. */
  readonly kinds: ReadonlySet<keyof Forms>;
  readonly busy: boolean;
  readonly onForms: (forms: Forms) => void;
}

/** In what forms messages, contacts, calls and dates are given: each kind by itself. */
export function FormChoices({ forms, kinds, busy, onForms }: Props) {
  return (Object.keys(CHOICES) as (keyof Forms)[])
    .filter((kind) => kinds.has(kind))
    .map((kind) => (
      <FormLine
        key={kind}
        name={NAMES[kind]}
        choices={CHOICES[kind]}
        chosen={forms[kind]}
        busy={busy}
        onChosen={(some) => onForms({ ...forms, [kind]: some })}
      />
    ));
}

interface LineProps {
  readonly name: string;
  readonly choices: readonly (readonly [string, string])[];
  readonly chosen: readonly string[];
  readonly busy: boolean;
  readonly onChosen: (chosen: readonly string[]) => void;
}

const FormLine = ({ name, choices, chosen, busy, onChosen }: LineProps) => (
  <>
    <dt className="text-second">{name}</dt>
    <dd>
      <fieldset className="flex flex-wrap gap-x-4 gap-y-1">
        <legend className="sr-only">Forms of {name.toLowerCase()}</legend>
        {choices.map(([form, words]) => (
          <label key={form} className="flex cursor-pointer items-center gap-1.5">
            <input
              type="checkbox"
              className="checkbox checkbox-xs border-second"
              checked={chosen.includes(form)}
              disabled={busy}
              onChange={({ target }) => onChosen(target.checked ? [...chosen, form] : chosen.filter((one) => one !== form))}
            />
            {words}
          </label>
        ))}
      </fieldset>
    </dd>
  </>
);
