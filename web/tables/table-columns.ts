import {
  columnOrderingFeature,
  columnResizingFeature,
  columnSizingFeature,
  columnVisibilityFeature,
  createColumnHelper,
  tableFeatures,
  useTable,
} from "@tanstack/react-table";
import { useEffect, useMemo } from "react";
import type { FoundRecord } from "../../core/finds/record.ts";
import { type ColumnHabit, cellOf, ROWID, type TableInfo } from "../worker/reading/tables-protocol.ts";

/** Only what columns are: rows are the worker's, a window at a time. */
const features = tableFeatures({ columnOrderingFeature, columnResizingFeature, columnSizingFeature, columnVisibilityFeature });
const helper = createColumnHelper<typeof features, FoundRecord>();

/** Pixels of a column: at first, at least, at most. */
export const WIDTH = { start: 150, least: 60, most: 900, text: 360 };
const NO_ROWS: FoundRecord[] = [];

/** The columns of a table as they are shown: how wide, in which order, which of them. Each is called by its place: two may have one name. */
export function useTableColumns({ columns }: TableInfo, habits: readonly ColumnHabit[]) {
  const names = useMemo(() => (columns.some((one) => one === "_id" || one === "id") ? columns : [ROWID, ...columns]), [columns]);
  const all = useMemo(() => {
    return helper.columns(
      names.map((name, place) =>
        helper.accessor((row) => cellOf(row, name), {
          id: `${place}`,
          header: name,
          size: WIDTH.start,
          minSize: WIDTH.least,
          maxSize: WIDTH.most,
        }),
      ),
    );
  }, [names]);
  const table = useTable({ features, columns: all, data: NO_ROWS, columnResizeMode: "onChange" });
  // What columns hold is told a moment later than the table: then its texts come first, as wide as they are.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the table is a new object each time
  useEffect(() => {
    if (habits.length === 0) return;
    table.setColumnOrder(orderBy(names, habits));
    table.setColumnSizing(Object.fromEntries(names.map((name, place) => [`${place}`, widthOf(habits.find((one) => one.name === name))])));
  }, [names, habits]);
  return table;
}

/** Letters from which a text is worth to be read in a table. */
const LEAST_LETTERS = 12;
const LETTER = 7.5;
const TIME_WIDTH = 170;

/** Places of columns: what names a row, then texts, the longest first, then moments, then all else as it stands. */
function orderBy(names: readonly string[], habits: readonly ColumnHabit[]): string[] {
  const letters = (name: string) => habits.find((one) => one.name === name)?.letters ?? 0;
  const isTime = (name: string) => habits.some((one) => one.name === name && one.time !== null);
  const rank = (name: string, place: number) => {
    if (place === 0) return Number.POSITIVE_INFINITY;
    return letters(name) >= LEAST_LETTERS ? letters(name) : isTime(name) ? 1 : 0;
  };
  return names
    .map((name, place) => ({ place, worth: rank(name, place) }))
    .sort((a, b) => b.worth - a.worth || a.place - b.place)
    .map(({ place }) => `${place}`);
}

function widthOf(habit: ColumnHabit | undefined): number {
  if (habit?.time) return TIME_WIDTH;
  return habit && habit.letters > 0 ? Math.round(Math.max(90, Math.min(WIDTH.text, habit.letters * LETTER + 20))) : 90;
}

export type TableColumns = ReturnType<typeof useTableColumns>;

/** What a column is called. */
export const nameOfColumn = ({ columnDef }: { readonly columnDef: { readonly header?: unknown } }): string => String(columnDef.header);

/** Moves a shown column by one place among those that are shown. */
export function moveColumn(table: TableColumns, id: string, by: number): void {
  const shown = table.getVisibleLeafColumns().map((column) => column.id);
  const from = shown.indexOf(id);
  const neighbour = shown[from + by];
  if (from < 0 || neighbour === undefined) return;
  const order = table.getAllLeafColumns().map((column) => column.id);
  const [mine, theirs] = [order.indexOf(id), order.indexOf(neighbour)];
  [order[mine], order[theirs]] = [order[theirs], order[mine]];
  table.setColumnOrder(order);
}
