import { ROLES, type Role, type Scalar } from "../../core/stores/mapping/by-hand.ts";
import type { ColumnView } from "../../core/stores/mapping/explain.ts";
import { count } from "../shared/words.ts";
import { ROLE_WORDS, valueWords } from "./meaning-words.ts";

interface Props {
  readonly column: ColumnView;
  /** Somebody said what it is. */
  readonly isSaid: boolean;
  readonly onRole: (role: Role) => void;
  /** Which side a value is, where the column tells the direction. */
  readonly onSide: (value: Scalar, side: "in" | "out") => void;
}

/** A guess that holds less than this a person should look at. */
const SURE = 0.7;

/** One column of the messages: one of its values, what it is taken for, and why. */
export function ColumnLine({ column, isSaid, onRole, onSide }: Props) {
  const { key, name, example, role, because, share, values } = column;
  const isGuess = !isSaid && role !== "none" && share < SURE;
  return (
    <tr className="border-b border-line align-top">
      <th scope="row" className="max-w-44 truncate px-4 py-2.5 text-left font-mono font-semibold" title={name}>
        {name}
      </th>
      <td className="max-w-52 truncate py-2.5 pr-3 font-mono text-sm text-second" dir="auto" title={example}>
        {example}
      </td>
      <td className="py-1.5 pr-3">
        <select
          aria-label={`What ${name} is`}
          className={`select h-8 w-auto rounded-full ${isGuess ? "border-dashed border-ink" : ""} ${role === "none" ? "text-second" : "font-semibold"}`}
          value={role}
          title={isGuess ? "A guess: look at it" : undefined}
          onChange={(event) => onRole(ROLES.find((one) => one === event.target.value) ?? "none")}
        >
          {ROLES.map((one) => (
            <option key={one} value={one}>
              {ROLE_WORDS[one]}
            </option>
          ))}
        </select>
        {role === "direction" && values.length > 0 && (
          <ul className="mt-1.5 flex flex-col gap-1 text-sm" aria-label={`Values of ${name}`}>
            {values.map(({ value, rows, side }) => (
              <li key={`${key} ${String(value)}`} className="flex items-center gap-1.5">
                <span className="w-14 truncate font-mono" title={`${count(rows)} rows`}>
                  {valueWords(value)}
                </span>
                {(["in", "out"] as const).map((one) => (
                  <button
                    key={one}
                    type="button"
                    className="chip h-6 px-2 py-0"
                    aria-pressed={side === one}
                    aria-label={`${valueWords(value)} is ${one}`}
                    onClick={() => onSide(value, one)}
                  >
                    {one}
                  </button>
                ))}
              </li>
            ))}
          </ul>
        )}
      </td>
      <td className="py-2.5 pr-4 text-sm text-second">{because}</td>
    </tr>
  );
}
