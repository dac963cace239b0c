import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import type { MessageValues } from "../../core/finds/record.ts";
import type { Narrow, TalkView } from "../../core/stores/people/questions.ts";
import { dayWords } from "../people/people-words.ts";
import { useEntries, usePeople } from "../people/use-people.ts";
import { useSession, useSessionState } from "../session/use-session.ts";
import { count, plural } from "../shared/words.ts";
import type { PersonEntry } from "../worker/finds/people-desk.ts";
import type { Found } from "../worker/finds/protocol.ts";
import { Message } from "./Message.tsx";

interface Props {
  readonly talk: TalkView;
  /** Where something is asked for it opens at the last that fits. */
  readonly narrow: Narrow;
  readonly selected: string | null;
  readonly onSelect: (message: PersonEntry | null) => void;
  readonly onOpen: (find: Found) => void;
}

const GUESS = 64;

/** A conversation, both sides in order; erased messages in their place. */
export function Thread({ talk, narrow, selected, onSelect, onOpen }: Props) {
  const session = useSession();
  const tray = useSessionState((state) => state.tray);
  const frame = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({ count: talk.messages, getScrollElement: () => frame.current, estimateSize: () => GUESS, overscan: 12 });
  const items = list.getVirtualItems();
  const [from, to] = [items[0]?.index ?? 0, items.at(-1)?.index ?? 0];
  const messages = useEntries((desk, first, end) => desk.messages(talk.key, first, end), Math.max(0, from - 1), to, talk.key);
  const { words } = narrow;
  const asked = `${talk.key} ${JSON.stringify(narrow)}`;
  const hits = usePeople((desk) => desk.hits(talk.key, narrow), asked) ?? [];
  const [hit, setHit] = useState(0);
  const wentTo = useRef(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a conversation opens at its end, where it was left off.
  useEffect(() => {
    if (talk.messages === 0) return;
    // Where something is looked for it stays at what was found.
    const last = () => {
      if (!wentTo.current) list.scrollToIndex(talk.messages - 1, { align: "end" });
    };
    last();
    // How high messages are shows when they are there: until then the end moves.
    const again = [120, 400].map((delay) => setTimeout(last, delay));
    return () => again.forEach(clearTimeout);
  }, [talk.key]);
  const goTo = (place: number) => {
    wentTo.current = true;
    setHit(place);
    const index = hits[place];
    if (index !== undefined) list.scrollToIndex(index, { align: "center" });
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: the first that was found is shown when something is looked for.
  useEffect(() => {
    if (hits.length > 0) goTo(hits.length - 1);
  }, [hits.length, asked]);
  /** Where a stretch begins: at the message that was looked at last, by its key, since others may come to stand before it. */
  const anchor = useRef<string | null>(null);
  /** Where the one that is looked at stood when it was; -1: none was. */
  const place = useRef(-1);
  const placeNow = () => [...messages].find(([, { key }]) => key === selected)?.[0] ?? place.current;
  const select = (message: PersonEntry, index: number) => {
    anchor.current = message.key;
    place.current = index;
    onSelect(message);
  };
  /** All from there up to here go into the tray. */
  const chooseUpTo = async (message: PersonEntry, index: number) => {
    const desk = await session.desks.people;
    // Looked at first: the next key may come before all of them are in the tray.
    onSelect(message);
    place.current = index;
    // Where none was looked at before, it begins here.
    anchor.current ??= message.key;
    const ends = await Promise.all([anchor.current, message.key].map((key) => desk.placeIn(talk.key, key)));
    const [from, to] = [Math.min(...ends), Math.max(...ends)];
    if (from < 0) return;
    const stretch = await desk.messages(talk.key, from, to + 1);
    await session.choose(
      stretch.map(({ key }) => key),
      true,
    );
  };
  const move = (event: KeyboardEvent) => {
    const now = placeNow();
    const at = now < 0 ? to : now;
    const step = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (event.key === " " && selected) {
      event.preventDefault();
      void session.choose([selected], !tray.has(selected));
    }
    if (step === 0) return;
    event.preventDefault();
    const next = Math.max(0, Math.min(talk.messages - 1, at + step));
    list.scrollToIndex(next);
    const message = messages.get(next);
    if (message && event.shiftKey) void chooseUpTo(message, next);
    else if (message) select(message, next);
  };
  return (
    <section className="panel flex min-w-0 flex-1 flex-col" aria-label={`Conversation: ${talk.title}`}>
      <div className="flex items-center gap-3 border-b border-line px-4 py-2">
        <h2 className="truncate font-bold">{talk.title}</h2>
        <p className="truncate text-sm text-second">
          {talk.group && talk.members.length > 0 ? `${count(talk.members.length)} people · ` : ""}
          {plural(talk.messages, "message")}
          {talk.erased > 0 ? `, ${count(talk.erased)} erased` : ""}
        </p>
        {hits.length > 0 && (
          <span className="ml-auto flex items-center gap-1 text-sm whitespace-nowrap" role="status">
            {count(hit + 1)} of {count(hits.length)}
            <button
              type="button"
              className="button h-7 px-2"
              aria-label="The one before"
              disabled={hit === 0}
              onClick={() => goTo(hit - 1)}
            >
              ↑
            </button>
            <button
              type="button"
              className="button h-7 px-2"
              aria-label="The next one"
              disabled={hit >= hits.length - 1}
              onClick={() => goTo(hit + 1)}
            >
              ↓
            </button>
          </span>
        )}
      </div>
      <div ref={frame} className="min-h-0 flex-1 overflow-y-auto px-5" role="listbox" aria-label="Messages" tabIndex={0} onKeyDown={move}>
        <div className="relative" style={{ height: list.getTotalSize() }}>
          {items.map(({ index, start }) => {
            const message = messages.get(index);
            const before = messages.get(index - 1);
            return (
              <div
                key={index}
                data-index={index}
                ref={list.measureElement}
                className="absolute inset-x-0"
                style={{ top: start, minHeight: 40 }}
              >
                {message && <DayAbove message={message} before={before} isFirst={index === 0} />}
                {message?.skipped && <Skipped numbers={message.skipped} />}
                {message && (
                  <Message
                    message={message}
                    isGroup={talk.group}
                    words={words}
                    isSelected={message.key === selected}
                    isChosen={tray.has(message.key)}
                    onSelect={(upTo) => (upTo ? void chooseUpTo(message, index) : select(message, index))}
                    onOpen={onOpen}
                  />
                )}
              </div>
            );
          })}
        </div>
      </div>
    </section>
  );
}

/** Row numbers that are missing before a message: what stood there is gone. */
const Skipped = ({ numbers }: { numbers: number }) => (
  <p
    className="my-1 border-t-2 border-dashed border-line-strong pt-0.5 text-center text-[13px] text-second"
    title="The app numbers its messages one after the other. Nothing is left of these: they may have been of this conversation or of another."
  >
    {plural(numbers, "number is", "numbers are")} skipped here
  </p>
);

const dayOf = ({ values }: PersonEntry): string => (values as MessageValues).at?.slice(0, 10) ?? "";

/** The day, where another one begins. */
function DayAbove({ message, before, isFirst }: { message: PersonEntry; before: PersonEntry | undefined; isFirst: boolean }) {
  const day = dayOf(message);
  if (!isFirst && (!before || dayOf(before) === day)) return null;
  return <p className="py-2 text-center text-sm font-semibold text-second">{day ? dayWords(day) : "without a date"}</p>;
}
