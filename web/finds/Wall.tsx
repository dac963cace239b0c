import { useVirtualizer } from "@tanstack/react-virtual";
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { useStore } from "zustand";
import type { FindGroup } from "../../core/finds/find-query.ts";
import { Turns } from "../../core/work/turns.ts";
import { useMedia, useSession, useSessionState } from "../session/use-session.ts";
import { count } from "../shared/words.ts";
import type { Found } from "../worker/finds/protocol.ts";
import { groupWords } from "./group-words.ts";
import { ListLine } from "./ListLine.tsx";
import { Tile } from "./Tile.tsx";
import { useWindow } from "./use-window.ts";
import { tileHeight, wallLook } from "./wall-look.ts";
import { layRows, placeBelow, rowAt, type WallRow } from "./wall-rows.ts";

const GAP = 8;
const LINE = 40;
const HEADING = 30;
/** Height of the names of groups that stand side by side. */
const LABEL = 24;

/** Keys that move: by so many finds, or by so many rows. */
const BY_FINDS: Record<string, number> = { ArrowRight: 1, ArrowLeft: -1, Home: Number.MIN_SAFE_INTEGER, End: Number.MAX_SAFE_INTEGER };
const BY_ROWS: Record<string, number> = { ArrowDown: 1, ArrowUp: -1, PageDown: 4, PageUp: -4 };

/** Where a key leads from a place of the answer. Null: it does something else. */
function stepOf(key: string, rows: readonly WallRow[]): number | ((place: number) => number) | null {
  if (key in BY_FINDS) return BY_FINDS[key];
  return key in BY_ROWS ? (place) => placeBelow(rows, place, BY_ROWS[key]) : null;
}

/** All finds of the answer, as a wall of pictures or as a list. Only what is in sight is there. */
export function Wall({ onOpen }: { onOpen: () => void }) {
  const session = useSession();
  const { look, tile } = useStore(wallLook);
  const height = tileHeight(tile);
  const answer = useSessionState((state) => state.answer);
  const selected = useSessionState((state) => state.selected);
  const tray = useSessionState((state) => state.tray);
  const scroller = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(940);
  const columns = look === "list" ? 1 : Math.max(1, Math.floor((width + GAP) / (tile + GAP)));
  const rows = useMemo(() => layRows(answer?.total ?? 0, answer?.groups ?? null, columns), [answer, columns]);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: (index) => heightOf(rows[index], look, height),
    overscan: 4,
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: other rows have other heights
  useLayoutEffect(() => virtual.measure(), [rows, look, height]);
  useLayoutEffect(() => {
    if (!scroller.current) return;
    const watch = new ResizeObserver(([entry]) => setWidth(entry.contentRect.width));
    watch.observe(scroller.current);
    return () => watch.disconnect();
  }, []);

  const media = useMedia();
  const isWritten = useSessionState(({ behind }) => behind !== null);
  const group = useSessionState(({ query }) => query.group);
  const name = (of: FindGroup["of"], isShort = false) => (group === "nothing" ? "" : groupWords(group, of, media, isShort));
  const items = virtual.getVirtualItems();
  const inSight = items.map(({ index }) => rows[index]).filter((row) => row !== undefined && row.type !== "heading");
  const finds = useWindow(answer, inSight.at(0)?.from ?? 0, inSight.at(-1)?.to ?? 0);

  // What is looked at stays known by its id when the answer changes; its place is asked for when a key moves on.
  async function move(by: number | ((place: number) => number)) {
    const next = await session.looking.neighbour(session.store.getState().selected, by);
    if (!next) return;
    session.select(next.find);
    const row = rowAt(rows, next.place);
    if (row >= 0) virtual.scrollToIndex(row === 1 ? 0 : row, { align: "auto" });
  }

  /** Keys are obeyed one after the other: a find that a key moved to is there before the next key speaks of it. */
  const [turns] = useState(() => new Turns());
  const inTurn = useCallback((step: () => unknown) => void turns.take(step), [turns]);

  const keys = useHotkeys<HTMLDivElement>(
    ["right", "left", "down", "up", "pagedown", "pageup", "home", "end", "space", "enter"],
    ({ key }) => {
      const step = stepOf(key, rows);
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
      if (kept && (await session.looking.placeOf(kept.key)) >= 0) return;
      const [first] = await session.looking.window(0, 1);
      session.select(first ?? null);
    });
  }, [session, answer, inTurn]);

  const Item = look === "list" ? ListLine : Tile;
  const size = look === "list" ? { width: "100%" } : { width: tile, height };
  /** The finds of some places of the answer, side by side. */
  const tiles = (from: number, to: number) =>
    Array.from({ length: to - from }, (_, column) => {
      const find: Found | undefined = finds.get(from + column);
      return (
        <div key={find?.key ?? column} className="shrink-0" style={size} role="presentation">
          {find ? (
            <Item
              find={find}
              looked={selected?.key === find.key}
              chosen={tray.has(find.key)}
              onLook={() => session.select(find)}
              onChoose={isWritten ? null : () => void session.choose([find.key], !tray.has(find.key))}
              onOpen={onOpen}
            />
          ) : (
            <div className={`animate-pulse rounded-field bg-base-300 ${look === "list" ? "h-9" : "size-full"}`} />
          )}
        </div>
      );
    });
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
          const place = { transform: `translateY(${start}px)` };
          if (row.type === "heading")
            return (
              <h2 key={key} className="absolute inset-x-0 truncate pt-1" style={{ ...place, height: HEADING }} role="presentation">
                <strong>{name(row.group)}</strong> <span className="text-second">{count(row.count)}</span>
              </h2>
            );
          return (
            <div key={key} className="absolute inset-x-0 flex" style={{ ...place, gap: GAP }} role="presentation">
              {row.type === "finds"
                ? tiles(row.from, row.to)
                : row.blocks.map(({ group: of, from, to }) => (
                    <div key={from} role="presentation">
                      <h2
                        className="truncate text-sm font-semibold"
                        style={{ height: LABEL, width: (to - from) * (tile + GAP) - GAP }}
                        title={name(of)}
                        role="presentation"
                      >
                        {name(of, true)}
                      </h2>
                      <div className="flex" style={{ gap: GAP }} role="presentation">
                        {tiles(from, to)}
                      </div>
                    </div>
                  ))}
            </div>
          );
        })}
      </div>
    </div>
  );
}

function heightOf(row: WallRow, look: "wall" | "list", tile: number): number {
  if (row.type === "heading") return HEADING;
  if (look === "list") return LINE;
  return tile + GAP + (row.type === "blocks" ? LABEL : 0);
}
