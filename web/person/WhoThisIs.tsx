import type { PersonAddress, PersonView } from "../../core/stores/people/persons.ts";
import { useJob, useSession } from "../session/use-session.ts";
import { count, plural } from "../shared/words.ts";

interface Props {
  readonly person: PersonView;
  /** Numbers of rows that are skipped among their messages. */
  readonly skipped: number;
  /** Files that their messages name and nothing that was found is called by; null: not yet known. */
  readonly missingFiles: number | null;
  readonly erased: number;
  readonly onErased: () => void;
}

const WAYS: readonly (readonly [PersonAddress["joined"], string])[] = [
  [null, "known by"],
  ["card", "joined by a card of the address book"],
  ["hand", "joined by you"],
];

/** By what the addresses of a person were joined, what is missing, and the way into the tray. */
export function WhoThisIs({ person, skipped, missingFiles, erased, onErased }: Props) {
  const session = useSession();
  const { joins } = useJob();
  const keys = person.addresses.map(({ key }) => key);
  const apart = joins.filter((one) => one.apart).flatMap(({ a, b }) => (keys.includes(a) ? [b] : keys.includes(b) ? [a] : []));
  const isSaid = apart.length > 0 || person.addresses.some(({ joined }) => joined === "hand");
  return (
    <aside className="panel flex w-72 shrink-0 flex-col gap-3 overflow-y-auto p-4" aria-label="Who this is">
      <h2 className="font-bold">Who this is</h2>
      {WAYS.map(([way, words]) => {
        const own = person.addresses.filter(({ joined }) => joined === way);
        return (
          own.length > 0 && (
            <section key={words} className="text-sm">
              <h3 className="font-bold">{words}</h3>
              <ul>
                {own.map(({ key, written, names }) => (
                  <li key={key} className="[overflow-wrap:anywhere]">
                    <span className="font-mono">{written}</span>
                    {names.length > 0 && <span className="text-second"> {names.slice(0, 3).join(", ")}</span>}
                  </li>
                ))}
              </ul>
            </section>
          )
        );
      })}
      {apart.length > 0 && (
        <section className="text-sm">
          <h3 className="font-bold">kept apart by you</h3>
          <ul className="font-mono">
            {[...new Set(apart)].map((key) => (
              <li key={key} className="[overflow-wrap:anywhere]">
                {key}
              </li>
            ))}
          </ul>
        </section>
      )}
      {isSaid && (
        <button type="button" className="button" onClick={() => void session.unsayOfPeople(keys)}>
          Take back what you said
        </button>
      )}
      {(skipped > 0 || (missingFiles ?? 0) > 0) && (
        <section className="flex flex-col gap-1 border-t border-dashed border-line pt-3 text-sm">
          <h3 className="font-bold">What is still missing</h3>
          {skipped > 0 && (
            <p className="text-second">
              {plural(skipped, "number is", "numbers are")} skipped among their messages: these rows are gone, and may have been somebody
              else’s.
            </p>
          )}
          {missingFiles !== null && missingFiles > 0 && (
            <p className="text-second">{plural(missingFiles, "file is", "files are")} named in them and not among what was found.</p>
          )}
        </section>
      )}
      {erased > 0 && (
        <button type="button" className="button button-lamp mt-auto" onClick={onErased}>
          All {count(erased)} erased into the tray
        </button>
      )}
    </aside>
  );
}
