import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, useRef } from "react";
import type { MessageValues } from "../../core/finds/record.ts";
import { appOf } from "../../core/stores/people/app.ts";
import type { Narrow, TalkView } from "../../core/stores/people/questions.ts";
import { Face } from "../people/Face.tsx";
import { dayWords, fileWords, shortDayWords } from "../people/people-words.ts";
import { usePeople } from "../people/use-people.ts";
import { StateShape } from "../shared/Marks.tsx";
import { count } from "../shared/words.ts";
import type { PersonEntry } from "../worker/finds/people-desk.ts";
import type { App } from "./use-apps.ts";

interface Props {
  readonly talks: readonly TalkView[] | null;
  readonly chosen: string | null;
  /** What is asked for: it counts what holds that. Null: nothing. */
  readonly narrow: Narrow | null;
  readonly apps: readonly App[];
  /** Only conversations of this one; null: all. */
  readonly app: string | null;
  readonly onChoose: (key: string) => void;
}

const LINE = 60;
const EVERYTHING: Narrow = { words: "" };

/** Who wrote with whom, and what was said last, of what is asked for. */
export function TalkList({ talks, chosen, narrow, apps, app, onChoose }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({ count: talks?.length ?? 0, getScrollElement: () => frame.current, estimateSize: () => LINE, overscan: 8 });
  const items = list.getVirtualItems();
  const shown = items.flatMap(({ index }) => talks?.[index]?.key ?? []);
  const asked = JSON.stringify([shown, narrow]);
  const last = usePeople(
    async (desk) => new Map((await desk.lastOf(shown, narrow ?? EVERYTHING)).map((message, index) => [shown[index], message])),
    asked,
  );
  const nameOf = new Map(apps.map(({ key, name }) => [key, name]));
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
      {talks === null && <p className="p-4 text-second">Looking them up…</p>}
      {talks?.length === 0 && <p className="p-4 text-second">Nobody and nothing said fits that.</p>}
      <div ref={frame} className="min-h-0 flex-1 overflow-y-auto" role="listbox" aria-label="Conversations" tabIndex={0} onKeyDown={move}>
        <div className="relative" style={{ height: list.getTotalSize() }}>
          {items.map(({ index, start }) => {
            const talk = talks?.[index];
            if (!talk) return null;
            return (
              <div
                key={talk.key}
                role="option"
                aria-selected={talk.key === chosen}
                aria-setsize={talks?.length}
                aria-posinset={index + 1}
                tabIndex={-1}
                className={`absolute inset-x-0 flex cursor-pointer items-center gap-3 border-b border-line px-3 ${talk.key === chosen ? "bg-glow" : "hover:bg-base-200"}`}
                style={{ top: start, height: LINE }}
                onClick={() => onChoose(talk.key)}
                onKeyDown={move}
              >
                <TalkLine
                  talk={talk}
                  isNarrow={narrow !== null}
                  app={apps.length > 1 && app === null ? nameOf.get(appOf(talk)) : undefined}
                  last={last?.get(talk.key) ?? null}
                />
              </div>
            );
          })}
        </div>
      </div>
    </section>
  );
}

interface LineProps {
  readonly talk: TalkView;
  readonly isNarrow: boolean;
  /** Named where there are several. */
  readonly app: string | undefined;
  readonly last: PersonEntry | null;
}

function TalkLine({ talk, isNarrow, app, last }: LineProps) {
  return (
    <>
      <Face name={talk.title} />
      <span className="min-w-0 flex-1 leading-tight">
        <span className="flex items-baseline gap-2">
          <span className="min-w-0 flex-1 truncate font-semibold">{talk.title}</span>
          {app && <span className="max-w-24 shrink-0 truncate text-xs text-second">{app}</span>}
        </span>
        <span className="flex items-baseline gap-2 text-[13px] text-second">
          <span className="min-w-0 flex-1 truncate" dir="auto">
            {lastWords(last) ?? `${count(talk.messages)} messages`}
          </span>
          {talk.erased > 0 && !isNarrow && (
            <span className="flex shrink-0 items-center gap-1 font-semibold text-base-content" title={`${count(talk.erased)} erased`}>
              <StateShape state="erased" /> {count(talk.erased)}
              <span className="sr-only"> erased</span>
            </span>
          )}
          {isNarrow && talk.hits > 0 && (
            <span className="shrink-0" title={`${count(talk.hits)} of its ${count(talk.messages)} messages fit that`}>
              {count(talk.hits)} of {count(talk.messages)}
              <span className="sr-only"> hold that</span>
            </span>
          )}
          {!isNarrow && talk.erased === 0 && talk.last !== null && (
            <span className="shrink-0" title={dayWords(talk.last)}>
              {shortDayWords(talk.last)}
            </span>
          )}
        </span>
      </span>
    </>
  );
}

/** What a message says, or carries. Null: it is not there yet, or says nothing. */
function lastWords(message: PersonEntry | null): string | null {
  const { text, attachments } = (message?.values ?? {}) as MessageValues;
  const [file] = attachments ?? [];
  return text || (file ? fileWords(file) : null);
}
