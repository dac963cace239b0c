import {
  columnOrderingFeature,
  columnResizingFeature,
  columnSizingFeature,
  columnVisibilityFeature,
  createColumnHelper,
  tableFeatures,
  useTable,
} from "@tanstack/react-table";
import { useMemo } from "react";
import type { FoundRecord } from "../../core/finds/record.ts";
import { cellOf, ROWID, type TableInfo } from "../worker/reading/tables-protocol.ts";

/** Only what columns are: rows are the worker's, a window at a time. */
const features = tableFeatures({ columnOrderingFeature, columnResizingFeature, columnSizingFeature, columnVisibilityFeature });
const helper = createColumnHelper<typeof features, FoundRecord>();

/** Pixels of a column: at first, at least, at most. */
export const WIDTH = { start: 150, least: 60, most: 900 };
const NO_ROWS: FoundRecord[] = [];

/** The columns of a table as they are shown: how wide, in which order, which of them. Each is called by its place: two may have one name. */
export function useTableColumns({ columns }: TableInfo) {
  const all = useMemo(() => {
    const names = columns.some((one) => one === "_id" || one === "id") ? columns : [ROWID, ...columns];
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
  }, [columns]);
  return useTable({ features, columns: all, data: NO_ROWS, columnResizeMode: "onChange" });
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
