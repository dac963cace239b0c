import { useEffect, useState } from "react";
import type { MessageValues } from "../../core/finds/record.ts";
import type { Holds } from "../../core/stores/mapping/holds.ts";
import { Message } from "../conversations/Message.tsx";
import { dayWords } from "../people/people-words.ts";
import { useSession } from "../session/use-session.ts";
import { count } from "../shared/words.ts";
import type { PersonEntry } from "../worker/finds/people-desk.ts";
import type { MeaningAnswer } from "../worker/reading/meaning-protocol.ts";
import { percent } from "./meaning-words.ts";

/** Letters of a conversation's name in the list. */
const MOST_LETTERS = 60;

/** The conversation as it then reads, and figures that say whether it holds. */
export function SoItReads({ answer }: { answer: MeaningAnswer }) {
  const session = useSession();
  const { talks, meaning } = answer;
  const [chosen, setChosen] = useState<string | null>(null);
  const [messages, setMessages] = useState<readonly PersonEntry[]>([]);
  const talk = talks.find(({ id }) => id === chosen) ?? talks[0] ?? null;
  const id = talk?.id ?? null;
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was said anew reads anew.
  useEffect(() => {
    let left = false;
    if (id === null) setMessages([]);
    else
      void session.desks.reading.meaningMessages(id).then((some) => {
        if (!left) setMessages(some);
      });
    return () => {
      left = true;
    };
  }, [session, id, answer]);
  const first = messages.findIndex(({ state }) => state === "erased");
  return (
    <section className="panel flex w-[31rem] shrink-0 flex-col" aria-label="So it reads">
      <div className="flex items-center gap-3 border-b border-line px-4 py-2">
        <h2 className="font-bold whitespace-nowrap">So it reads</h2>
        {talk && (
          <select
            className="select ml-auto h-8 max-w-72"
            aria-label="Conversation"
            value={talk.id}
            onChange={(event) => setChosen(event.target.value)}
          >
            {talks.slice(0, 500).map((one) => (
              <option key={one.id} value={one.id}>
                {`\u2068${one.title.slice(0, MOST_LETTERS)}\u2069`} · {count(one.messages)}
                {one.erased > 0 ? `, ${count(one.erased)} erased` : ""}
              </option>
            ))}
          </select>
        )}
      </div>
      {talk === null ? (
        <p className="flex-1 p-5 text-second">
          Nothing reads as messages so. What is needed: a text, a time, and a column by which rows are told to come in or go out.
        </p>
      ) : (
        <div className="min-h-0 flex-1 overflow-y-auto px-4 py-2" role="listbox" aria-label="Messages as they read" tabIndex={0}>
          {messages.map((message, index) => (
            <div key={message.key} ref={index === Math.max(0, first - 2) ? intoView : undefined}>
              {dayOf(message) !== dayOf(messages[index - 1]) && (
                <p className="py-1 text-center text-sm font-semibold text-second">
                  {dayOf(message) ? dayWords(dayOf(message)) : "without a date"}
                </p>
              )}
              <Message message={message} isGroup words="" isSelected={false} isChosen={false} onSelect={() => {}} onOpen={() => {}} />
            </div>
          ))}
        </div>
      )}
      {meaning.holds && <DoesItHold holds={meaning.holds} />}
    </section>
  );
}

/** The first erased message is what one looks for. */
const intoView = (line: HTMLDivElement | null) => line?.scrollIntoView({ block: "start" });
const dayOf = (message: PersonEntry | undefined): string => (message ? ((message.values as MessageValues).at?.slice(0, 10) ?? "") : "-");

function DoesItHold({ holds }: { holds: Holds }) {
  const figures: readonly (readonly [string, string, boolean])[] = [
    ["times within a conversation rise", percent(holds.rising), holds.rising > 0.9],
    ["messages with a time", percent(holds.withTime), holds.withTime > 0.95],
    ["messages with a side", percent(holds.withSide), holds.withSide > 0.95],
    [
      "messages in both directions",
      `${count(holds.bothSides)} of ${count(holds.conversations)}`,
      holds.bothSides * 3 > holds.conversations,
    ],
    ["what came in says from whom", percent(holds.withSender), holds.withSender > 0.8],
    ...(holds.erased > 0
      ? [
          [
            "erased messages that read",
            `${count(holds.erasedThatRead)} of ${count(holds.erased)}`,
            holds.erasedThatRead * 1.2 > holds.erased,
          ] as const,
        ]
      : []),
  ];
  return (
    <div className="border-t border-dashed border-line-strong px-4 py-2.5">
      <h3 className="mb-1 font-bold">Does it hold?</h3>
      <dl className="grid grid-cols-[1fr_auto] gap-x-4 gap-y-0.5 text-sm">
        {figures.map(([what, figure, holdsUp]) => (
          <div key={what} className="contents">
            <dt className="text-second">{what}</dt>
            <dd className={`text-right font-semibold ${holdsUp ? "" : "rounded-field bg-warning px-1.5 text-warning-content"}`}>
              {figure}
            </dd>
          </div>
        ))}
      </dl>
    </div>
  );
}
