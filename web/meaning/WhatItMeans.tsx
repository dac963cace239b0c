import type { ByHand, Role, Scalar } from "../../core/stores/mapping/by-hand.ts";
import type { ColumnView } from "../../core/stores/mapping/explain.ts";
import type { Meaning } from "../../core/stores/mapping/meaning.ts";
import { count } from "../shared/words.ts";
import type { MeaningAnswer } from "../worker/reading/meaning-protocol.ts";
import { ColumnLine } from "./ColumnLine.tsx";
import { JOINED_WORDS } from "./meaning-words.ts";

interface Props {
  readonly answer: MeaningAnswer;
  readonly said: ByHand;
  readonly onSay: (said: ByHand) => void;
}

/** Only one column is each of these: who says it of another one takes it from the first. */
const ONE_ONLY: ReadonlySet<Role> = new Set(["when", "conversation", "sender", "direction"]);

/** A table that is put together with the messages once, whatever it is for. */
const byTable = (joined: Meaning["joined"]): [string, Meaning["joined"]][] =>
  [...new Set(joined.map(({ table }) => table))].map((table) => [table, joined.filter((one) => one.table === table)]);

/** Which table holds the messages, and what each of its columns is. */
export function WhatItMeans({ answer, said, onSay }: Props) {
  const { meaning, app, isRefused } = answer;
  const { tables, table, columns, joined } = meaning;
  const rowsOf = new Map(tables.map(({ name, rows }) => [name, rows]));
  const sayRole = (column: ColumnView, role: Role) => {
    const roles: Record<string, Role> = { ...said.roles, [column.key]: role };
    for (const other of columns) {
      if (other.key === column.key) continue;
      // What had this part before is open again, or nothing where that was said of it.
      if (ONE_ONLY.has(role) && roles[other.key] === role) delete roles[other.key];
    }
    const turnsSides = role === "direction" || column.role === "direction";
    onSay({ table, roles, sides: turnsSides ? null : said.sides });
  };
  const saySide = (column: ColumnView, value: Scalar, side: "in" | "out") => {
    const of = (one: "in" | "out") =>
      column.values.filter((known) => known.value !== value && known.side === one).map((known) => known.value);
    const sides = { in: of("in"), out: of("out") };
    sides[side].push(value);
    onSay({ table, roles: { ...said.roles, [column.key]: "direction" }, sides });
  };
  return (
    <section className="panel flex min-w-0 flex-1 flex-col" aria-label="What this database means">
      <div className="flex items-baseline gap-3 border-b border-line px-4 py-2">
        <h2 className="font-bold whitespace-nowrap">What this database means</h2>
        <p className="truncate text-sm text-second">
          {isRefused
            ? "You said that it is no messenger. Say otherwise here."
            : meaning.mapping
              ? `Proposed from shape and content${app ? `, of ${app}` : ""}. Put right what is wrong.`
              : "Nothing in it reads as messages yet: say what its columns are."}
        </p>
      </div>
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1.5 border-b border-line bg-base-200 px-4 py-2">
        <span>messages are</span>
        <select
          className="select h-8 w-auto max-w-56 rounded-full bg-neutral font-semibold text-neutral-content"
          aria-label="Table of the messages"
          value={table ?? ""}
          onChange={(event) => onSay({ table: event.target.value, roles: {}, sides: null })}
        >
          {tables.map(({ name, rows }) => (
            <option key={name} value={name}>
              {name} {count(rows)}
            </option>
          ))}
        </select>
        {byTable(joined).map(([other, parts]) => (
          <span key={other} className="flex items-center gap-1.5">
            {parts.map(({ as }) => JOINED_WORDS[as]).join(" and ")}
            <span
              className="rounded-full border border-line-strong bg-base-100 px-2.5 py-0.5 font-semibold"
              title={parts.map(({ as }) => as).join(", ")}
            >
              {other} <span className="font-mono text-sm font-normal text-second">{count(rowsOf.get(other) ?? 0)}</span>
            </span>
          </span>
        ))}
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto">
        <table className="w-full table-fixed">
          <colgroup>
            <col className="w-[24%]" />
            <col className="w-[25%]" />
            <col className="w-[23%]" />
            <col />
          </colgroup>
          <thead>
            <tr className="sticky top-0 z-10 bg-base-100 text-left text-sm text-second">
              <th className="px-4 py-2 font-normal">column</th>
              <th className="py-2 font-normal">one of its values</th>
              <th className="py-2 font-normal">is the message's</th>
              <th className="py-2 font-normal">because</th>
            </tr>
          </thead>
          <tbody>
            {columns.map((column) => (
              <ColumnLine
                key={column.key}
                column={column}
                isSaid={said.roles[column.key] !== undefined}
                onRole={(role) => sayRole(column, role)}
                onSide={(value, side) => saySide(column, value, side)}
              />
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
