import { ArrowDown, ArrowUp } from "lucide-react";
import type { TableQuery } from "../worker/reading/tables-protocol.ts";
import { nameOfColumn, type TableColumns, WIDTH } from "./table-columns.ts";

/** Pixels by which a key makes a column wider or narrower. */
const STEP = 20;

type Header = ReturnType<TableColumns["getFlatHeaders"]>[number];

/** The head of a column: a press sorts by it, its right edge is dragged to make it wider, or moved by the arrow keys. */
export function ColumnHead({
  header,
  table,
  sort,
  onSort,
}: {
  header: Header;
  table: TableColumns;
  sort: TableQuery["sort"];
  onSort: (column: string) => void;
}) {
  const { column } = header;
  const name = nameOfColumn(column);
  const width = column.getSize();
  const isSorted = sort?.column === name;
  const resize = (by: number) =>
    table.setColumnSizing((sizes) => ({ ...sizes, [column.id]: Math.max(WIDTH.least, Math.min(WIDTH.most, width + by)) }));
  return (
    <span
      style={{ width }}
      className="relative shrink-0"
      role="columnheader"
      aria-label={name}
      tabIndex={-1}
      aria-sort={!isSorted ? "none" : sort.descending ? "descending" : "ascending"}
    >
      <button
        type="button"
        tabIndex={-1}
        className="flex w-full cursor-pointer items-center gap-1 truncate px-2 py-1.5 text-left"
        onClick={() => onSort(name)}
      >
        <span className="truncate">{name}</span>
        {isSorted &&
          (sort.descending ? <ArrowDown className="size-3.5" aria-hidden="true" /> : <ArrowUp className="size-3.5" aria-hidden="true" />)}
      </button>
      <span
        role="separator"
        aria-orientation="vertical"
        aria-label={`Width of ${name}`}
        aria-valuenow={width}
        aria-valuemin={WIDTH.least}
        aria-valuemax={WIDTH.most}
        tabIndex={0}
        className="absolute inset-y-1 right-0 w-1.5 cursor-col-resize rounded border-r border-line hover:bg-accent focus-visible:bg-accent"
        onMouseDown={header.getResizeHandler()}
        onTouchStart={header.getResizeHandler()}
        onDoubleClick={() => column.resetSize()}
        onKeyDown={(event) => {
          const step = { ArrowRight: STEP, ArrowLeft: -STEP }[event.key];
          if (step === undefined) return;
          event.preventDefault();
          event.stopPropagation();
          resize(step);
        }}
      />
    </span>
  );
}
