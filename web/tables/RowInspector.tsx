import { Eye, Microscope } from "lucide-react";
import { type RecordEvidence, type Stored, tableWords } from "../../core/finds/record.ts";
import { ConditionCells, StateShape } from "../shared/Marks.tsx";
import { hex } from "../shared/words.ts";
import type { ShownRow } from "../worker/reading/tables-protocol.ts";
import { asMoment, cellWords, PLACE_WORDS, shownFormat } from "./cell-words.ts";

const same = (a: Stored | undefined, b: Stored | undefined): boolean => cellWords(a) === cellWords(b);

/** Tables that a row may be of, of which so many are named. */
const TABLES_NAMED = 12;

interface Props {
  readonly row: ShownRow | null;
  readonly onPlace: (place: RecordEvidence) => void;
  /** The data in this column are to be looked at. */
  readonly onLook: (column: string) => void;
}

/** All that is known of one row: its values, how it was before, and where it was read. */
export function RowInspector({ row, onPlace, onLook }: Props) {
  return (
    <aside className="panel mb-3 flex w-80 shrink-0 flex-col overflow-hidden" aria-label="Row">
      {row ? (
        <div
          className="min-h-0 flex-1 overflow-y-auto p-3.5"
          // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls
          tabIndex={0}
          role="group"
          aria-label={`Row ${row.rowid ?? "without a number"}`}
        >
          <h2 className="font-bold">
            {tableWords(row) ?? row.kind}
            {" · "}
            {row.rowid === null ? <span className="font-normal text-second">row id lost</span> : `row ${row.rowid}`}
          </h2>
          <p className="mt-1 flex flex-wrap gap-x-4 gap-y-1">
            <span className="flex items-center gap-1.5">
              <StateShape state={row.state} /> {row.state}
            </span>
            <span className="flex items-center gap-1.5">
              <ConditionCells condition={row.condition} /> {row.condition}
            </span>
          </p>
          {row.state === "unclear" && (
            <p className="mt-1.5 text-sm text-second">Its own page is missing or broken: nothing says whether it was there or erased.</p>
          )}
          {row.tables && (
            <p className="mt-1.5 text-sm text-second">
              These tables are of one shape, and it may be of any of them: {row.tables.slice(0, TABLES_NAMED).join(", ")}
              {row.tables.length > TABLES_NAMED && ` and ${row.tables.length - TABLES_NAMED} more`}.
            </p>
          )}
          <dl className="mt-2.5 text-sm">
            {Object.entries(row.columns).map(([name, value]) => {
              const moment = asMoment(value);
              return value === null ? null : (
                <div key={name} className="border-b border-dashed border-line py-1">
                  <dt className="text-[13px] text-second">{name}</dt>
                  <dd className="wrap-anywhere whitespace-pre-wrap">
                    {cellWords(value, row.sizes?.[name])}
                    {shownFormat(value) && (
                      <button
                        type="button"
                        className="button mt-0.5 h-7 text-[13px]"
                        aria-label={`Look at ${name}`}
                        onClick={() => onLook(name)}
                      >
                        <Eye className="size-3.5" aria-hidden="true" /> Look at it: {shownFormat(value)?.toUpperCase()}
                      </button>
                    )}
                    {moment && <span className="block text-[13px] text-second">{moment}, if it is a time</span>}
                  </dd>
                </div>
              );
            })}
          </dl>
          {row.versions?.map(({ columns, evidence }) => (
            <section key={`${evidence.file} ${evidence.at}`} className="mt-3 rounded-field bg-base-200 p-2.5">
              <h3 className="text-sm font-bold">Before it was edited</h3>
              <dl className="mt-1 text-sm">
                {Object.entries(columns)
                  .filter(([name, value]) => !same(value, row.columns[name]))
                  .map(([name, value]) => (
                    <div key={name}>
                      <dt className="text-[13px] text-second">{name}</dt>
                      <dd className="wrap-anywhere">
                        {cellWords(value) || "nothing"} <span aria-hidden="true">→</span>
                        <span className="sr-only">became</span> {cellWords(row.columns[name]) || "nothing"}
                      </dd>
                    </div>
                  ))}
              </dl>
              <Place place={evidence} onPlace={onPlace} />
            </section>
          ))}
          <h3 className="mt-3 border-t border-dashed border-line pt-2.5 text-sm font-bold">Where it was read</h3>
          <ul className="mt-1 flex flex-col gap-1.5">
            {row.evidence.map((place) => (
              <li key={`${place.file} ${place.at}`}>
                <Place place={place} onPlace={onPlace} />
              </li>
            ))}
          </ul>
        </div>
      ) : (
        <p className="p-4 text-second">Click a row, or move with the arrow keys: all its values, and where they were read, stand here.</p>
      )}
    </aside>
  );
}

function Place({ place, onPlace }: { place: RecordEvidence; onPlace: (place: RecordEvidence) => void }) {
  return (
    <div className="text-[13px]">
      <p>
        {PLACE_WORDS[place.what] ?? place.what}{" "}
        <span className="font-mono text-xs whitespace-nowrap text-second">
          {place.page !== null ? `page ${place.page}, ` : ""}
          {hex(place.at)}
        </span>
      </p>
      {place.page !== null && (
        <button type="button" className="button mt-0.5 h-7 text-[13px]" onClick={() => onPlace(place)}>
          <Microscope className="size-3.5" aria-hidden="true" /> Show the page
        </button>
      )}
    </div>
  );
}
