import { Check } from "lucide-react";
import { KIND_WORDS, KINDS } from "../../core/finds/find.ts";
import { EVERYTHING_THERE, type Scope } from "../../core/scan/scope.ts";
import { kindsWanted } from "../../core/wants/questions.ts";
import { useJob } from "../session/use-session.ts";

type Kind = (typeof KINDS)[number];

/** Databases are gone over for what people mean by their rows. */
const WORDS = { ...KIND_WORDS, database: "messages and people" };

/** All kinds are everything, and so is none. */
const kindsOf = (chosen: ReadonlySet<Kind>): Scope["kinds"] =>
  chosen.size === 0 || chosen.size === KINDS.length ? null : KINDS.filter((kind) => chosen.has(kind));

interface Props {
  readonly scope: Scope;
  /** What was gone over already: it can be added to. Null: nothing was. */
  readonly covered: Scope | null;
  readonly disabled: boolean;
  readonly onChoose: (scope: Scope) => void;
}

/** What a scan goes over: everything, or the kinds that are wanted, and what is erased alone. Narrower is quicker; the rest can follow. */
export function ScopeChoice({ scope, covered, disabled, onChoose }: Props) {
  const { kinds, erasedOnly } = scope;
  const wanted = kindsWanted(useJob().intake.wants);
  const isCovered = (kind: Kind) => covered !== null && (covered.kinds?.includes(kind) ?? true);
  const press = (kind: Kind) => {
    // What was gone over stays so.
    const chosen = new Set(kinds ?? covered?.kinds ?? []);
    if (!chosen.delete(kind)) chosen.add(kind);
    onChoose({ ...scope, kinds: kindsOf(chosen) });
  };
  return (
    <fieldset className="flex flex-wrap items-center gap-1.5" disabled={disabled}>
      <legend className="sr-only">Go over</legend>
      <span className="mr-0.5 text-sm text-second" aria-hidden="true">
        Go over
      </span>
      <button type="button" className="chip" aria-pressed={kinds === null} onClick={() => onChoose({ ...scope, kinds: null })}>
        everything
      </button>
      {KINDS.map((kind) => (
        <button
          key={kind}
          type="button"
          className="chip"
          aria-pressed={isCovered(kind) || (kinds?.includes(kind) ?? false)}
          disabled={isCovered(kind)}
          title={isCovered(kind) ? "was gone over already" : undefined}
          onClick={() => press(kind)}
        >
          {isCovered(kind) && <Check className="-ml-1 inline size-3.5" aria-hidden="true" />} {WORDS[kind]}
        </button>
      ))}
      {covered?.erasedOnly !== false && (
        <label className="ml-3 flex items-center gap-1.5 text-sm">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={erasedOnly}
            onChange={({ target }) => onChoose({ ...scope, erasedOnly: target.checked })}
          />
          erased only
        </label>
      )}
      {wanted && covered === null && (
        <button
          type="button"
          className="button ml-auto h-8"
          onClick={() => onChoose({ ...EVERYTHING_THERE, kinds: kindsOf(new Set(wanted)) })}
        >
          Only what is wanted
        </button>
      )}
    </fieldset>
  );
}
