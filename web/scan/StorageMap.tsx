import { useEffect, useRef, useState } from "react";
import { Cell } from "../../core/scan/storage-map.ts";
import { volumeWords } from "../finds/folder-words.ts";
import type { ShownScan } from "../session/session-state.ts";
import { bytes, hex, plural } from "../shared/words.ts";
import { LINES, type MapPicture, StorageMapPainter } from "./storage-map-painter.ts";

const CELL_WORDS: Record<number, string> = {
  [Cell.used]: "in use",
  [Cell.free]: "free, not searched yet",
  [Cell.searched]: "free, searched",
  [Cell.unreadable]: "unreadable",
};

/** Cells to both sides of the one pointed at whose finds are shown with it: a cell is five pixels wide. */
const AROUND = 4;

/** The medium as a page of lines. Point at a place to see what is there; click or Enter opens its finds. */
export function StorageMap({
  picture,
  size,
  volumes,
  onPlace,
}: {
  picture: MapPicture | null;
  size: number;
  volumes: ShownScan["volumes"];
  onPlace: (from: number, to: number) => void;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const painter = useRef<StorageMapPainter | null>(null);
  const [cell, setCell] = useState<number | null>(null);

  useEffect(() => {
    if (!canvas.current) return;
    const own = new StorageMapPainter(canvas.current);
    painter.current = own;
    return () => own.close();
  }, []);
  useEffect(
    () =>
      painter.current?.draw(
        picture,
        volumes.map(({ start }) => start),
      ),
    [picture, volumes],
  );

  const cells = picture?.cells.length ?? 1;
  const placeOf = (at: number) => Math.floor((at / cells) * size);
  const show = (at: number) => onPlace(placeOf(Math.max(0, at - AROUND)), placeOf(Math.min(cells, at + AROUND + 1)));
  const move = (by: number) => setCell((at) => Math.max(0, Math.min(cells - 1, (at ?? 0) + by)));
  const words =
    cell === null || !picture
      ? `one line = ${bytes(size / LINES)} · point at a place to see what is there`
      : `${bytes(placeOf(cell))} from the start (${hex(placeOf(cell))}) · ${volumeAt(placeOf(cell))} · ${CELL_WORDS[picture.cells[cell]]} · ${plural(picture.strokes[cell], "erased thing")}`;
  const perLine = cells / LINES;
  function volumeAt(offset: number): string {
    const index = volumes.findIndex(({ start, length }) => start <= offset && offset < start + length);
    return volumeWords(index, volumes);
  }
  return (
    <div>
      <p className="mb-2 flex gap-3 text-[13.5px]">
        <strong>Storage map</strong>{" "}
        <span className="text-second" aria-live="polite">
          {words}
        </span>
      </p>
      <div
        // biome-ignore lint/a11y/noNoninteractiveTabindex: the map is walked by arrow keys
        tabIndex={0}
        role="application"
        aria-label={`Storage map, read like a page. Arrow keys move, Enter shows the finds of a place. ${words}`}
        className="h-56 w-full cursor-crosshair rounded"
        onMouseMove={(event) => {
          const box = event.currentTarget.getBoundingClientRect();
          setCell(painter.current?.cellAt(event.clientX - box.left, event.clientY - box.top) ?? null);
        }}
        onMouseLeave={() => setCell(null)}
        onClick={() => cell !== null && show(cell)}
        onKeyDown={(event) => {
          const step = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: perLine, ArrowUp: -perLine }[event.key];
          if (step !== undefined) {
            event.preventDefault();
            move(step);
          } else if (event.key === "Enter" && cell !== null) show(cell);
        }}
      >
        <canvas ref={canvas} className="size-full" />
      </div>
      <Legend />
    </div>
  );
}

function Legend() {
  const band = "inline-block h-1.5 w-5";
  return (
    <p className="mt-2 flex flex-wrap gap-x-6 gap-y-1 text-[13px]" aria-hidden="true">
      <span className="flex items-center gap-2">
        <span className={`${band} bg-band`} /> in use
      </span>
      <span className="flex items-center gap-2">
        <span className={`${band} border-y border-accent/60 bg-glow`} /> free, searched
      </span>
      <span className="flex items-center gap-2">
        <span className={`${band} bg-base-300`} /> free, not searched yet
      </span>
      <span className="flex items-center gap-2">
        <span className="inline-block h-3 w-[3px] bg-primary" /> erased things (taller = more)
      </span>
      <span className="flex items-center gap-2">
        <span className="inline-block size-3 border border-error bg-[repeating-linear-gradient(-45deg,var(--color-error)_0_1px,transparent_1px_4px)]" />{" "}
        unreadable
      </span>
    </p>
  );
}
