import { ArrowDown, ArrowUp, Columns3 } from "lucide-react";
import { moveColumn, nameOfColumn, type TableColumns } from "./table-columns.ts";

/** Which columns are shown, and in which order. */
export function ColumnMenu({ table }: { table: TableColumns }) {
  const columns = table.getAllLeafColumns();
  const shown = table.getVisibleLeafColumns();
  return (
    <details className="dropdown dropdown-end">
      <summary className="button h-8 cursor-pointer">
        <Columns3 className="size-4" aria-hidden="true" /> Columns
        {shown.length < columns.length && <span className="font-mono text-sm">{`${shown.length} of ${columns.length}`}</span>}
      </summary>
      <div className="panel dropdown-content z-20 mt-1 max-h-96 w-80 overflow-y-auto p-2 shadow-lg">
        <p className="flex gap-2 p-1">
          <button type="button" className="button h-8" onClick={() => table.toggleAllColumnsVisible(true)}>
            Show all
          </button>
          <button
            type="button"
            className="button h-8"
            onClick={() => {
              table.resetColumnSizing(true);
              table.resetColumnOrder(true);
            }}
          >
            As they were
          </button>
        </p>
        <ul aria-label="Columns">
          {columns.map((column) => {
            const name = nameOfColumn(column);
            const place = shown.indexOf(column);
            return (
              <li key={column.id} className="flex items-center gap-1 rounded px-1 hover:bg-glow">
                <label className="flex min-w-0 flex-1 cursor-pointer items-center gap-2 py-1">
                  <input
                    type="checkbox"
                    className="size-4 accent-primary"
                    checked={column.getIsVisible()}
                    // The last one stays: a table without columns shows nothing to bring one back by.
                    disabled={column.getIsVisible() && shown.length === 1}
                    onChange={(event) => column.toggleVisibility(event.target.checked)}
                  />
                  <span className="truncate">{name}</span>
                </label>
                <button
                  type="button"
                  className="button h-7 w-7 px-0"
                  aria-label={`${name} further left`}
                  disabled={place <= 0}
                  onClick={() => moveColumn(table, column.id, -1)}
                >
                  <ArrowUp className="size-3.5" aria-hidden="true" />
                </button>
                <button
                  type="button"
                  className="button h-7 w-7 px-0"
                  aria-label={`${name} further right`}
                  disabled={place < 0 || place === shown.length - 1}
                  onClick={() => moveColumn(table, column.id, 1)}
                >
                  <ArrowDown className="size-3.5" aria-hidden="true" />
                </button>
              </li>
            );
          })}
        </ul>
      </div>
    </details>
  );
}
