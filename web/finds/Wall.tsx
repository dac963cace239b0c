import { useVirtualizer } from "@tanstack/react-virtual";
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { Turns } from "../../core/work/turns.ts";
import { useSession, useSessionState } from "../session/use-session.ts";
import { count, longDay } from "../shared/words.ts";
import type { Found } from "../worker/finds/protocol.ts";
import { ListLine } from "./ListLine.tsx";
import { Tile } from "./Tile.tsx";
import { useWindow } from "./use-window.ts";
import { layRows } from "./wall-rows.ts";

const TILE = { width: 148, height: 110, gap: 8 };
const LINE = 40;
const HEADING = 30;

/** Keys that move, by how many finds. Null: it does something else. */
const stepOf = (key: string, columns: number): number | null =>
  ({
    ArrowRight: 1,
    ArrowLeft: -1,
    ArrowDown: columns,
    ArrowUp: -columns,
    PageDown: columns * 4,
    PageUp: -columns * 4,
    Home: Number.MIN_SAFE_INTEGER,
    End: Number.MAX_SAFE_INTEGER,
  })[key] ?? null;

/** All finds of the answer, as a wall of pictures or as a list. Only what is in sight is there. */
export function Wall({ look, onOpen }: { look: "wall" | "list"; onOpen: () => void }) {
  const session = useSession();
  const answer = useSessionState((state) => state.answer);
  const selected = useSessionState((state) => state.selected);
  const tray = useSessionState((state) => state.tray);
  const scroller = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(940);
  const columns = look === "list" ? 1 : Math.max(1, Math.floor((width + TILE.gap) / (TILE.width + TILE.gap)));
  const rows = useMemo(() => layRows(answer?.total ?? 0, answer?.groups ?? null, columns), [answer, columns]);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: (index) => (rows[index].type === "heading" ? HEADING : look === "list" ? LINE : TILE.height + TILE.gap),
    overscan: 4,
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: other rows have other heights
  useLayoutEffect(() => virtual.measure(), [rows, look]);
  useLayoutEffect(() => {
    if (!scroller.current) return;
    const watch = new ResizeObserver(([entry]) => setWidth(entry.contentRect.width));
    watch.observe(scroller.current);
    return () => watch.disconnect();
  }, []);

  const items = virtual.getVirtualItems();
  const inSight = items.map(({ index }) => rows[index]).filter((row) => row?.type === "finds");
  const finds = useWindow(answer, inSight.at(0)?.from ?? 0, inSight.at(-1)?.to ?? 0);

  // What is looked at stays known by its id when the answer changes; its place is asked for when a key moves on.
  async function move(by: number) {
    const next = await session.looking.neighbour(session.store.getState().selected, by);
    if (!next) return;
    session.select(next.find);
    const row = rows.findIndex((one) => one.type === "finds" && one.from <= next.place && next.place < one.to);
    if (row >= 0) virtual.scrollToIndex(row === 1 ? 0 : row, { align: "auto" });
  }

  /** Keys are obeyed one after the other: a find that a key moved to is there before the next key speaks of it. */
  const [turns] = useState(() => new Turns());
  const inTurn = useCallback((step: () => unknown) => void turns.take(step), [turns]);

  const keys = useHotkeys<HTMLDivElement>(
    ["right", "left", "down", "up", "pagedown", "pageup", "home", "end", "space", "enter"],
    ({ key }) => {
      const step = stepOf(key, columns);
      if (step !== null) inTurn(() => move(step));
      else if (key === "Enter") inTurn(onOpen);
      else
        inTurn(() => {
          const { selected: now, tray: chosen } = session.store.getState();
          return now && session.choose([now.key], !chosen.has(now.key));
        });
    },
    { preventDefault: true, enableOnFormTags: ["option"] },
  );
  const scrollerRef = useCallback(
    (element: HTMLDivElement | null) => {
      scroller.current = element;
      keys(element);
    },
    [keys],
  );

  // What is looked at is always one of those shown: a key must never speak of one that was filtered out.
  useEffect(() => {
    if (!answer) return;
    inTurn(async () => {
      const { selected: kept } = session.store.getState();
      if (kept && (await session.desks.index.placeInAnswer(kept.key)) >= 0) return;
      const [first] = await session.desks.index.window(0, 1);
      session.select(first ?? null);
    });
  }, [session, answer, inTurn]);

  const Item = look === "list" ? ListLine : Tile;
  return (
    <div
      ref={scrollerRef}
      className="-ml-1.5 min-w-0 flex-1 overflow-y-auto pb-4 pl-1.5"
      role="listbox"
      aria-label="Finds"
      aria-multiselectable="true"
      tabIndex={0}
      aria-activedescendant={selected ? `find-${selected.key}` : undefined}
    >
      <div className="relative" style={{ height: virtual.getTotalSize() }}>
        {items.map(({ index, start, key }) => {
          const row = rows[index];
          if (!row) return null;
          if (row.type === "heading")
            return (
              <h2
                key={key}
                className="absolute inset-x-0 pt-1"
                style={{ transform: `translateY(${start}px)`, height: HEADING }}
                role="presentation"
              >
                <strong>{row.day === null ? "Day not known" : longDay(row.day)}</strong>{" "}
                <span className="text-second">{count(row.count)}</span>
              </h2>
            );
          return (
            <div
              key={key}
              className="absolute inset-x-0 flex"
              style={{ transform: `translateY(${start}px)`, gap: TILE.gap }}
              role="presentation"
            >
              {Array.from({ length: row.to - row.from }, (_, column) => {
                const find: Found | undefined = finds.get(row.from + column);
                return find ? (
                  <Item
                    key={find.key}
                    find={find}
                    looked={selected?.key === find.key}
                    chosen={tray.has(find.key)}
                    onLook={() => session.select(find)}
                    onChoose={() => void session.choose([find.key], !tray.has(find.key))}
                    onOpen={onOpen}
                  />
                ) : (
                  <div
                    // biome-ignore lint/suspicious/noArrayIndexKey: a place in the answer that is not loaded yet
                    key={column}
                    className={`animate-pulse rounded-field bg-base-300 ${look === "list" ? "h-9 w-full" : ""}`}
                    style={look === "list" ? undefined : { width: TILE.width, height: TILE.height }}
                  />
                );
              })}
            </div>
          );
        })}
      </div>
    </div>
  );
}
