import { useVirtualizer } from "@tanstack/react-virtual";
import { useCallback, useEffect, useRef, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { useSession } from "../session/use-session.ts";
import { useTold } from "../session/use-told.ts";
import { StateShape } from "../shared/Marks.tsx";
import { SearchField } from "../shared/SearchField.tsx";
import { count } from "../shared/words.ts";
import {
  type ColumnHabit,
  cellOf,
  ROW_STATES,
  type RowState,
  type ShownRow,
  type TableAnswer,
  type TableInfo,
  type TableQuery,
} from "../worker/reading/tables-protocol.ts";
import { ColumnHead } from "./ColumnHead.tsx";
import { ColumnMenu } from "./ColumnMenu.tsx";
import { asMoment, cellWords } from "./cell-words.ts";
import { nameOfColumn, useTableColumns } from "./table-columns.ts";

const LINE = 32;
/** Letters of a cell that can be seen at most: the whole value stands beside, once the row is chosen. */
const CELL_LETTERS = 200;
const STATE = 112;
/** Rows are asked for in blocks of this many. */
const BLOCK = 100;
const NO_HABITS: readonly ColumnHabit[] = [];

/** Keys that move, by how many rows. */
const STEPS: Readonly<Record<string, number>> = {
  ArrowDown: 1,
  ArrowUp: -1,
  PageDown: 15,
  PageUp: -15,
  Home: Number.MIN_SAFE_INTEGER,
  End: Number.MAX_SAFE_INTEGER,
};

/** One table with all its rows, erased ones in their place: sorted, searched, only what is in sight is there. */
export function TableView({
  info,
  selected,
  onSelect,
}: {
  info: TableInfo;
  selected: ShownRow | null;
  onSelect: (row: ShownRow | null) => void;
}) {
  const session = useSession();
  const [query, setQuery] = useState<TableQuery>({ table: info.name, states: [], edited: false, words: "", sort: null });
  const [answer, setAnswer] = useState<TableAnswer | null>(null);
  const [rows, setRows] = useState<ReadonlyMap<number, ShownRow>>(new Map());
  const scroller = useRef<HTMLDivElement>(null);
  // Asked for when the table answered: it reads rows from all over it.
  const habits =
    useTold(async () => (answer ? session.desks.reading.tableHabits(info.name) : NO_HABITS), [session, info, answer !== null]) ?? NO_HABITS;
  const times = new Set(habits.flatMap(({ name, time }) => (time ? [name] : [])));
  const table = useTableColumns(info, habits);
  const columns = table.getVisibleLeafColumns();
  const width = STATE + table.getTotalSize();

  useEffect(() => {
    let late = false;
    void session.desks.reading.askTable(query).then((told) => {
      if (late) return;
      setRows(new Map());
      setAnswer(told);
    });
    return () => {
      late = true;
    };
  }, [session, query]);

  const virtual = useVirtualizer({
    count: answer?.total ?? 0,
    getScrollElement: () => scroller.current,
    estimateSize: () => LINE,
    overscan: 8,
  });
  const items = virtual.getVirtualItems();
  const first = Math.floor((items[0]?.index ?? 0) / BLOCK) * BLOCK;
  const end = Math.ceil(((items.at(-1)?.index ?? 0) + 1) / BLOCK) * BLOCK;
  useEffect(() => {
    if (!answer || answer.total === 0) return;
    let late = false;
    void session.desks.reading.tableWindow(first, end).then((some) => {
      if (!late) setRows(new Map(some.map((row, index) => [first + index, row])));
    });
    return () => {
      late = true;
    };
  }, [session, answer, first, end]);

  /** What stands in a cell: a moment as one, the number as it is stored stands beside, once the row is chosen. */
  const words = (row: ShownRow, name: string): string => {
    const value = cellOf(row, name);
    return ((times.has(name) && asMoment(value)) || cellWords(value, row.sizes?.[name])).slice(0, CELL_LETTERS);
  };

  async function move(key: string) {
    const total = answer?.total ?? 0;
    const step = STEPS[key];
    if (step === undefined || total === 0) return;
    const at = [...rows].find(([, row]) => row.id === selected?.id)?.[0] ?? -1;
    const next = Math.max(0, Math.min(total - 1, at < 0 ? 0 : at + step));
    const [row] = await session.desks.reading.tableWindow(next, next + 1);
    if (!row) return;
    onSelect(row);
    virtual.scrollToIndex(next, { align: "auto" });
  }
  const keys = useHotkeys<HTMLDivElement>(["down", "up", "pagedown", "pageup", "home", "end"], ({ key }) => void move(key), {
    preventDefault: true,
  });
  const scrollerRef = useCallback(
    (element: HTMLDivElement | null) => {
      scroller.current = element;
      keys(element);
    },
    [keys],
  );

  const toggle = (state: RowState) =>
    setQuery({ ...query, states: query.states.includes(state) ? query.states.filter((one) => one !== state) : [...query.states, state] });
  const sortBy = (column: string) =>
    setQuery({
      ...query,
      sort: query.sort?.column !== column ? { column, descending: false } : query.sort.descending ? null : { column, descending: true },
    });

  return (
    <section className="mb-3 flex min-w-0 flex-1 flex-col gap-2" aria-label={info.name}>
      <div className="flex flex-wrap items-center gap-2" role="toolbar" aria-label="Rows">
        {ROW_STATES.filter((state) => state !== "unclear" || info.unclear > 0).map((state) => (
          <button key={state} type="button" className="chip" aria-pressed={query.states.includes(state)} onClick={() => toggle(state)}>
            <StateShape state={state} /> {state} <span className="font-mono">{count(answer?.[state] ?? 0)}</span>
          </button>
        ))}
        {info.edited > 0 && (
          <button type="button" className="chip" aria-pressed={query.edited} onClick={() => setQuery({ ...query, edited: !query.edited })}>
            edited <span className="font-mono">{count(answer?.edited ?? 0)}</span>
          </button>
        )}
        <SearchField
          label="Search in all columns"
          placeholder="Search in all columns"
          value={query.words}
          onChange={(words) => setQuery({ ...query, words })}
          className="ml-auto min-w-36 max-w-56 flex-1"
        />
        <ColumnMenu table={table} />
      </div>
      <div
        ref={scrollerRef}
        className="panel min-h-0 flex-1 overflow-auto"
        role="grid"
        aria-label={`Rows of ${info.name}`}
        aria-rowcount={(answer?.total ?? 0) + 1}
        tabIndex={0}
      >
        <div
          className="sticky top-0 z-10 flex border-b border-line bg-base-200 text-[13px] font-bold"
          style={{ width }}
          role="row"
          tabIndex={-1}
        >
          <span className="shrink-0 px-2 py-1.5" style={{ width: STATE }} role="columnheader" tabIndex={-1}>
            state
          </span>
          {table.getFlatHeaders().map((header) => (
            <ColumnHead key={header.id} header={header} table={table} sort={query.sort} onSort={sortBy} />
          ))}
        </div>
        <div className="relative" style={{ height: virtual.getTotalSize(), width }} role="presentation">
          {items.map(({ index, start }) => {
            const row = rows.get(index);
            return (
              <div
                key={index}
                role="row"
                aria-rowindex={index + 2}
                aria-selected={row !== undefined && row.id === selected?.id}
                className={`absolute inset-x-0 flex cursor-pointer items-center border-b border-line text-sm ${row && row.id === selected?.id ? "bg-glow" : row?.state === "erased" ? "bg-base-200" : ""}`}
                style={{ transform: `translateY(${start}px)`, height: LINE }}
                onClick={() => row && onSelect(row)}
                onKeyDown={() => {}}
                tabIndex={-1}
              >
                <span className="flex shrink-0 items-center gap-1.5 px-2" style={{ width: STATE }} role="gridcell" tabIndex={-1}>
                  {row ? (
                    <>
                      <StateShape state={row.state} /> {row.state}
                    </>
                  ) : (
                    "…"
                  )}
                </span>
                {columns.map((column) => (
                  <span
                    key={column.id}
                    className="shrink-0 truncate px-2"
                    style={{ width: column.getSize() }}
                    role="gridcell"
                    tabIndex={-1}
                  >
                    {row ? words(row, nameOfColumn(column)) : ""}
                  </span>
                ))}
              </div>
            );
          })}
        </div>
        {answer?.total === 0 && <p className="sticky left-0 p-6 text-second">No row passes: take a filter off, or search for less.</p>}
      </div>
    </section>
  );
}
