import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, useRef } from "react";
import type { TalkView } from "../../core/stores/people/questions.ts";
import { dayWords, initials } from "../people/people-words.ts";
import { StateShape } from "../shared/Marks.tsx";
import { count } from "../shared/words.ts";
import type { App } from "./use-apps.ts";

interface Props {
  readonly talks: readonly TalkView[] | null;
  readonly chosen: string | null;
  /** Words, days or a person are asked for: it counts what holds them. */
  readonly isNarrow: boolean;
  /** Conversations with erased messages. */
  readonly erased: number;
  readonly apps: readonly App[];
  /** Only conversations of this one; null: all. */
  readonly app: string | null;
  readonly onApp: (app: string | null) => void;
  readonly withErased: boolean;
  readonly onWithErased: (on: boolean) => void;
  readonly onChoose: (key: string) => void;
}

const LINE = 60;

/** Who wrote with whom, the latest first. */
export function TalkList({ talks, chosen, isNarrow, erased, apps, app, onApp, withErased, onWithErased, onChoose }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({ count: talks?.length ?? 0, getScrollElement: () => frame.current, estimateSize: () => LINE, overscan: 8 });
  const move = (event: KeyboardEvent) => {
    const step = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (step === 0 || !talks) return;
    event.preventDefault();
    const at = talks.findIndex(({ key }) => key === chosen);
    const next = Math.max(0, Math.min(talks.length - 1, at + step));
    list.scrollToIndex(next);
    onChoose(talks[next].key);
  };
  return (
    <section className="panel flex w-72 shrink-0 flex-col" aria-label="People">
      <div className="flex items-center justify-between gap-2 border-b border-line px-3 py-2">
        <h2 className="font-bold">People</h2>
        <button type="button" className="chip" aria-pressed={withErased} onClick={() => onWithErased(!withErased)}>
          <StateShape state="erased" /> with erased <span className="font-mono">{count(erased)}</span>
        </button>
      </div>
      {apps.length > 1 && (
        <select
          className="h-9 border-b border-line bg-base-100 px-2.5 text-sm"
          aria-label="App"
          value={app ?? ""}
          onChange={({ target }) => onApp(target.value || null)}
        >
          <option value="">all apps</option>
          {apps.map(({ key, name, talks: number }) => (
            <option key={key} value={key}>
              {name} ({count(number)})
            </option>
          ))}
        </select>
      )}
      {talks === null && <p className="p-4 text-second">Looking them up…</p>}
      {talks?.length === 0 && <p className="p-4 text-second">Nobody and nothing said fits that.</p>}
      <div ref={frame} className="min-h-0 flex-1 overflow-y-auto" role="listbox" aria-label="Conversations" tabIndex={0} onKeyDown={move}>
        <div className="relative" style={{ height: list.getTotalSize() }}>
          {list.getVirtualItems().map(({ index, start }) => {
            const talk = talks?.[index];
            if (!talk) return null;
            const isOn = talk.key === chosen;
            return (
              <div
                key={talk.key}
                role="option"
                aria-selected={isOn}
                tabIndex={-1}
                className={`absolute inset-x-0 flex cursor-pointer items-center gap-3 border-b border-line px-3 ${isOn ? "bg-glow" : "hover:bg-base-200"}`}
                style={{ top: start, height: LINE }}
                onClick={() => onChoose(talk.key)}
                onKeyDown={move}
              >
                <span
                  className="flex size-9 shrink-0 items-center justify-center rounded-field bg-secondary text-sm font-bold text-secondary-content"
                  aria-hidden="true"
                >
                  {initials(talk.title)}
                </span>
                <span className="min-w-0 flex-1 leading-tight">
                  <span className="block truncate font-semibold">{talk.title}</span>
                  <span className="block truncate text-[13px] text-second">
                    {isNarrow && talk.hits > 0
                      ? `${count(talk.hits)} of ${count(talk.messages)} hold that`
                      : `${count(talk.messages)} · ${dayWords(talk.last)}`}
                  </span>
                </span>
                {talk.erased > 0 && (
                  <span className="flex items-center gap-1 text-sm font-semibold" title={`${count(talk.erased)} erased`}>
                    <StateShape state="erased" /> {count(talk.erased)}
                    <span className="sr-only"> erased</span>
                  </span>
                )}
              </div>
            );
          })}
        </div>
      </div>
    </section>
  );
}
