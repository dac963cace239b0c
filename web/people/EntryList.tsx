import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, type ReactNode, useRef } from "react";
import { useSession, useSessionState } from "../session/use-session.ts";
import type { PersonEntry } from "../worker/finds/people-desk.ts";
import { useEntries } from "./use-people.ts";

interface Props {
  readonly label: string;
  readonly total: number;
  /** Says of which question these are. */
  readonly question: string;
  readonly height: number;
  readonly selected: string | null;
  readonly onSelect: (entry: PersonEntry) => void;
  readonly line: (entry: PersonEntry) => ReactNode;
}

/** A list of contacts, calls or dates of any length: arrows go through it, Space chooses. */
export function EntryList({ label, total, question, height, selected, onSelect, line }: Props) {
  const session = useSession();
  const tray = useSessionState((state) => state.tray);
  const frame = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({ count: total, getScrollElement: () => frame.current, estimateSize: () => height, overscan: 10 });
  const items = list.getVirtualItems();
  const entries = useEntries((desk, from, to) => desk.window(from, to), items[0]?.index ?? 0, items.at(-1)?.index ?? 0, question);
  const move = (event: KeyboardEvent) => {
    const step = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (event.key === " " && selected) {
      event.preventDefault();
      void session.choose([selected], !tray.has(selected));
    }
    if (step === 0) return;
    event.preventDefault();
    const at = [...entries].find(([, one]) => one.key === selected)?.[0] ?? -1;
    const next = Math.max(0, Math.min(total - 1, at + step));
    list.scrollToIndex(next);
    const entry = entries.get(next);
    if (entry) onSelect(entry);
  };
  return (
    <div ref={frame} className="min-h-0 flex-1 overflow-y-auto" role="listbox" aria-label={label} tabIndex={0} onKeyDown={move}>
      <div className="relative" style={{ height: list.getTotalSize() }}>
        {items.map(({ index, start }) => {
          const entry = entries.get(index);
          return (
            entry && (
              <div
                key={entry.key}
                role="option"
                aria-selected={entry.key === selected}
                tabIndex={-1}
                className={`absolute inset-x-0 flex cursor-pointer items-center gap-3 border-b border-line px-3 ${entry.key === selected ? "bg-glow" : "hover:bg-base-200"}`}
                style={{ top: start, height }}
                onClick={() => onSelect(entry)}
                onKeyDown={move}
              >
                {tray.has(entry.key) && <span className="chosen-corner" title="in the tray" />}
                {line(entry)}
              </div>
            )
          );
        })}
      </div>
    </div>
  );
}
