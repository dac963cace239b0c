import { BarController, BarElement, CategoryScale, Chart as ChartJs, type ChartOptions, LinearScale } from "chart.js";
import { type PointerEvent, useEffect, useMemo, useRef, useState } from "react";
import { Bar } from "react-chartjs-2";
import type { Answer, DayCount } from "../../core/finds/find-query.ts";
import { count, datedDay, shortDay } from "../shared/words.ts";
import { type Bucket, bucketsOf, monthMarks, zoomed } from "./day-buckets.ts";

ChartJs.register(BarController, BarElement, CategoryScale, LinearScale);

/** One object for all drawings: a new one would make the chart be laid out again at every key. */
const OPTIONS: ChartOptions<"bar"> = {
  animation: false,
  responsive: true,
  maintainAspectRatio: false,
  events: [],
  layout: { padding: 0 },
  datasets: { bar: { categoryPercentage: 1, barPercentage: 0.72 } },
  scales: { x: { display: false, stacked: true }, y: { display: false, stacked: true, beginAtZero: true, grace: "8%" } },
};

/** Pixels of the widest bar: a few days are no wall over the whole screen. */
const WIDEST_BAR = 44;
/** Pixels that the plot has at least: its handles must be got hold of. */
const LEAST_PLOT = 260;

/** First and last bucket of the brush. */
type Brush = { readonly first: number; readonly last: number };
type Range = { readonly from: number; readonly to: number } | null;

interface DaysProps {
  readonly days: readonly DayCount[];
  readonly span: Answer["span"];
  readonly range: Range;
  readonly onRange: (range: Range) => void;
  /** What it counts: "calls". */
  readonly what?: string;
  /** Where much else is on the screen. */
  readonly isLow?: boolean;
}

/** The main filter: days over the whole width. Drag over it, and it shows those days from nearer; or move its two handles with the arrow keys. */
export function Days({ days, span, range, onRange, what = "finds", isLow = false }: DaysProps) {
  const seen = useMemo(() => zoomed(range, span), [range, span]);
  const buckets = useMemo(() => bucketsOf(days, seen), [days, seen]);
  const marks = useMemo(() => monthMarks(buckets), [buckets]);
  const plot = useRef<HTMLDivElement>(null);
  const [drag, setDrag] = useState<{ start: number; end: number } | null>(null);
  const ink = useInk();

  const brush = drag ? { first: Math.min(drag.start, drag.end), last: Math.max(drag.start, drag.end) } : range && brushOf(range, buckets);
  const bucketAt = (clientX: number) => {
    const box = plot.current?.getBoundingClientRect();
    return box ? Math.max(0, Math.min(buckets.length - 1, Math.floor(((clientX - box.left) / box.width) * buckets.length))) : 0;
  };
  const keep = ({ first, last }: Brush) => onRange({ from: buckets[first].from, to: buckets[last].from + buckets[last].days - 1 });
  const chosen = brush ? buckets.slice(brush.first, brush.last + 1).reduce((sum, { erased, others }) => sum + erased + others, 0) : 0;
  const chart = useMemo(
    () => ({
      labels: buckets.map(({ from }) => shortDay(from)),
      datasets: [
        { data: buckets.map(({ erased }) => erased), backgroundColor: ink, borderColor: ink, borderWidth: 1, stack: "all" },
        { data: buckets.map(({ others }) => others), backgroundColor: "transparent", borderColor: ink, borderWidth: 1, stack: "all" },
      ],
    }),
    [buckets, ink],
  );

  if (buckets.length === 0)
    return (
      <section className="panel flex h-20 items-center px-4 text-second" aria-label="Days">
        {what === "finds" ? "No find with a date yet: as soon as there is one, its days stand here." : `No ${what} with a date.`}
      </section>
    );
  return (
    <section className="panel relative px-3 pt-2 pb-1" aria-label="Days">
      <div
        ref={plot}
        className={`relative cursor-crosshair touch-none select-none ${isLow ? "h-10" : "h-16"}`}
        style={{ maxWidth: Math.max(LEAST_PLOT, buckets.length * WIDEST_BAR) }}
        data-testid="days"
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          setDrag({ start: bucketAt(event.clientX), end: bucketAt(event.clientX) });
        }}
        onPointerMove={(event) => drag && setDrag({ ...drag, end: bucketAt(event.clientX) })}
        onPointerUp={() => {
          if (drag) keep({ first: Math.min(drag.start, drag.end), last: Math.max(drag.start, drag.end) });
          setDrag(null);
        }}
      >
        {brush && (
          <div
            className="absolute inset-y-0 bg-glow"
            style={{
              left: `${(brush.first / buckets.length) * 100}%`,
              width: `${((brush.last - brush.first + 1) / buckets.length) * 100}%`,
            }}
          />
        )}
        <div className="pointer-events-none relative h-full">
          <Bar
            data={chart}
            role="img"
            aria-label={`${buckets.length} bars from ${datedDay(buckets[0].from)} to ${datedDay(buckets[buckets.length - 1].from)}`}
            options={OPTIONS}
          />
        </div>
        {brush &&
          (["first", "last"] as const).map((side) => (
            <Handle
              key={side}
              side={side}
              brush={brush}
              buckets={buckets}
              onMove={keep}
              onDrag={({ clientX, pointerId }) => {
                // The other end stays where it is, and the plot goes on hearing of the pointer.
                plot.current?.setPointerCapture(pointerId);
                setDrag({ start: side === "first" ? brush.last : brush.first, end: bucketAt(clientX) });
              }}
            />
          ))}
      </div>
      <div
        className="relative h-4 overflow-hidden border-t border-ink text-xs text-second"
        style={{ maxWidth: Math.max(LEAST_PLOT, buckets.length * WIDEST_BAR) }}
        data-testid="months"
        aria-hidden="true"
      >
        {marks.map(({ at, words }) => (
          <span key={at} className="absolute border-l border-second pl-1 leading-4" style={{ left: `${at * 100}%` }}>
            {words}
          </span>
        ))}
      </div>
      <div className="relative mt-0.5 flex h-5 justify-between gap-4 pt-0.5 text-[13px]">
        <span className="flex items-center gap-4">
          {datedDay(buckets[0].from)}
          <span className="flex items-center gap-1.5 text-second">
            <span className="size-2.5 bg-neutral" aria-hidden="true" /> erased
            <span className="ml-2 size-2.5 border border-ink" aria-hidden="true" /> present or binned
          </span>
        </span>
        {brush ? (
          <span className="flex items-center gap-2 font-bold">
            {spanWords(brush, buckets)} · {count(chosen)} {what}
            <button type="button" className="rounded px-1 font-normal underline" onClick={() => onRange(null)}>
              all days
            </button>
          </span>
        ) : (
          <button
            type="button"
            className="rounded px-1 text-second underline"
            onClick={() => keep({ first: Math.floor(buckets.length / 3), last: Math.ceil((2 * buckets.length) / 3) - 1 })}
          >
            drag over the days that matter
          </button>
        )}
        <span>{datedDay(buckets[buckets.length - 1].from + buckets[buckets.length - 1].days - 1)}</span>
      </div>
    </section>
  );
}

function Handle({
  side,
  brush,
  buckets,
  onMove,
  onDrag,
}: {
  side: "first" | "last";
  brush: Brush;
  buckets: readonly Bucket[];
  onMove: (brush: Brush) => void;
  onDrag: (event: PointerEvent) => void;
}) {
  const at = brush[side];
  const day = side === "first" ? buckets[at].from : buckets[at].from + buckets[at].days - 1;
  const move = (by: number) => {
    const least = side === "first" ? 0 : brush.first;
    const most = side === "first" ? brush.last : buckets.length - 1;
    onMove({ ...brush, [side]: Math.max(least, Math.min(most, at + by)) });
  };
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label={side === "first" ? "first day" : "last day"}
      aria-valuemin={buckets[0].from}
      aria-valuemax={buckets[buckets.length - 1].from}
      aria-valuenow={day}
      aria-valuetext={datedDay(day)}
      className="absolute inset-y-0 w-3 -translate-x-1/2 cursor-ew-resize"
      style={{ left: `${((side === "first" ? at : at + 1) / buckets.length) * 100}%` }}
      onPointerDown={(event) => {
        // Else the plot would begin a new brush here.
        event.stopPropagation();
        onDrag(event);
      }}
      onKeyDown={(event) => {
        const step = { ArrowLeft: -1, ArrowRight: 1, PageDown: -7, PageUp: 7 }[event.key];
        if (step === undefined) return;
        event.preventDefault();
        move(step);
      }}
    >
      <span className="absolute inset-y-0 left-1/2 w-0.5 -translate-x-1/2 bg-neutral" />
      <span className="absolute top-1/2 left-1/2 h-7 w-2.5 -translate-1/2 rounded-full bg-neutral" />
    </div>
  );
}

function brushOf({ from, to }: NonNullable<Range>, buckets: readonly Bucket[]): Brush | null {
  const first = buckets.findIndex((bucket) => bucket.from + bucket.days > from);
  const last = buckets.findLastIndex((bucket) => bucket.from <= to);
  return first < 0 || last < first ? null : { first, last };
}

const spanWords = ({ first, last }: Brush, buckets: readonly Bucket[]): string => {
  const from = shortDay(buckets[first].from);
  const to = shortDay(buckets[last].from + buckets[last].days - 1);
  return from === to ? from : `${from} – ${to}`;
};

/** The theme's ink: a chart on a canvas cannot take it from the style sheet. */
const readInk = () => getComputedStyle(document.documentElement).getPropertyValue("--color-base-content").trim() || "#20242b";

function useInk(): string {
  const [ink, setInk] = useState(readInk);
  useEffect(() => {
    const watch = new MutationObserver(() => setInk(readInk()));
    watch.observe(document.documentElement, { attributeFilter: ["data-theme"] });
    return () => watch.disconnect();
  }, []);
  return ink;
}
