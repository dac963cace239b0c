import { ArrowLeft } from "lucide-react";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { formatNamed } from "../../core/filetypes/table.ts";
import type { RecordEvidence } from "../../core/finds/record.ts";
import { Inspector } from "../finds/Inspector.tsx";
import { useOpened } from "../session/use-opened.ts";
import { useSession } from "../session/use-session.ts";
import { StateShape } from "../shared/Marks.tsx";
import { count, nameOf, plural } from "../shared/words.ts";
import { Viewer } from "../viewer/Viewer.tsx";
import type { Found } from "../worker/finds/protocol.ts";
import type { ShownRow, TableInfo } from "../worker/reading/tables-protocol.ts";
import { PageInspector } from "./PageInspector.tsx";
import { RowInspector } from "./RowInspector.tsx";
import { TableView } from "./TableView.tsx";

/** What stands in this database, what was erased from it, and how do we know? */
export function TablesScreen() {
  const { find: id = "" } = useParams();
  const session = useSession();
  const [table, setTable] = useState<string | null>(null);
  const [row, setRow] = useState<ShownRow | null>(null);
  const [looked, setLooked] = useState<Found | null>(null);
  const [word, setWord] = useState<string | null>(null);
  const [place, setPlace] = useState<RecordEvidence | null>(null);

  const { find, opening } = useOpened<readonly TableInfo[]>(id, async (tell) => {
    setRow(null);
    setTable(null);
    const outcome = await session.desks.reading.openTables(id, tell);
    return outcome.ok ? { ok: true, answer: outcome.tables } : outcome;
  });

  const select = (chosen: ShownRow | null) => {
    setRow(chosen);
    setWord(null);
  };
  async function look(column: string): Promise<void> {
    const answer = await session.desks.reading.cell(row?.id ?? "", column);
    if ("find" in answer) setLooked(answer.find);
    else setWord(answer.word);
  }

  const tables = opening.state === "open" ? opening.answer : [];
  const chosen = tables.find(({ name }) => name === table) ?? tables[0] ?? null;
  const erased = tables.reduce((sum, one) => sum + one.erased, 0);
  return (
    <main className="flex min-h-0 flex-1 flex-col gap-3 px-4 pt-3">
      <div className="flex items-center gap-3">
        <Link to="../finds" className="button h-8">
          <ArrowLeft className="size-4" aria-hidden="true" /> Finds
        </Link>
        <h1 className="min-w-0 truncate text-lg font-bold">
          {find ? nameOf(find) : "…"} <span className="font-normal text-second">{find?.path ?? ""}</span>
        </h1>
        {find && (
          <span className="flex items-center gap-1.5">
            <StateShape state={find.state} /> {find.state}
          </span>
        )}
        {find && formatNamed(find.format).holds === "rows" && (
          <Link to={`../meaning/${encodeURIComponent(id)}`} className="button h-8">
            Read as messages
          </Link>
        )}
        <p className="ml-auto text-second" role="status">
          {opening.state === "reading"
            ? `Reading all pages: ${Math.floor(opening.part * 100)} %`
            : opening.state === "open"
              ? (word ?? `${plural(tables.length, "table")} · ${count(erased)} erased rows`)
              : ""}
        </p>
      </div>
      {opening.state === "failed" && (
        <p role="alert" className="rounded-box bg-warning px-4 py-3 text-warning-content">
          <strong>{opening.because}</strong>
        </p>
      )}
      {opening.state === "open" && tables.length === 0 && (
        <p className="p-8 text-lg font-bold">No rows can be told apart in it: what is left of it is told under Copy &amp; scan.</p>
      )}
      <div className="flex min-h-0 flex-1 gap-3.5">
        <nav className="panel mb-3 flex w-60 shrink-0 flex-col overflow-y-auto p-1.5" aria-label="Tables">
          {opening.state === "reading" && <div className="m-2 h-40 animate-pulse rounded-field bg-base-300" />}
          {tables.map((one) => (
            <button
              key={one.name}
              type="button"
              aria-current={one === chosen}
              className={`flex w-full cursor-pointer items-center gap-2 rounded-field px-2.5 py-1.5 text-left ${one === chosen ? "bg-glow font-semibold" : ""}`}
              onClick={() => {
                setTable(one.name);
                select(null);
              }}
            >
              <span className="min-w-0 flex-1 truncate">{one.name}</span>
              <span className="font-mono text-xs text-second">{count(one.present)}</span>
              <span className={`flex w-14 items-center justify-end gap-1 font-mono text-xs ${one.erased > 0 ? "" : "invisible"}`}>
                <span className="sr-only">erased:</span> {count(one.erased)} <StateShape state="erased" />
              </span>
            </button>
          ))}
        </nav>
        {chosen && <TableView key={`${id} ${chosen.name}`} info={chosen} selected={row} onSelect={select} />}
        {opening.state === "open" && tables.length > 0 && (
          <RowInspector row={row} onPlace={setPlace} onLook={(column) => void look(column)} />
        )}
      </div>
      {looked && <Viewer find={looked} isAlone facts={<Inspector find={looked} />} onClose={() => setLooked(null)} />}
      {place && <PageInspector evidence={place} onClose={() => setPlace(null)} />}
    </main>
  );
}
