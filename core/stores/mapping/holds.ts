import type { MessageValues } from "../../finds/record.ts";
import type { Entry } from "../store.ts";
import { share } from "./statistics.ts";

/** Figures by which a person sees whether a reading holds. Shares are 0 to 1. */
export interface Holds {
  readonly messages: number;
  readonly conversations: number;
  /** Of two messages that follow each other in a conversation by their row, so many rise in time. */
  readonly rising: number;
  readonly withTime: number;
  readonly withSide: number;
  /** Conversations with messages of both sides. */
  readonly bothSides: number;
  /** Of what came in, so many say who wrote it. */
  readonly withSender: number;
  readonly attachments: number;
  /** Erased messages, and how many of them have a time and a text. */
  readonly erased: number;
  readonly erasedThatRead: number;
}

/** How well messages that a mapping read hold together. */
export function holdsOf(entries: readonly Entry[]): Holds {
  const messages = entries.filter(({ kind }) => kind === "chat");
  const values = messages.map((entry) => entry.values as MessageValues);
  const came = values.filter(({ direction }) => direction === "in");
  const erased = messages.filter(({ state }) => state === "erased");
  const talks = new Map<string, { last: string | null; sides: Set<string> }>();
  let rising = 0;
  let steps = 0;
  for (const { state, rowid, values: told } of messages) {
    const { conversation, at = null, direction } = told as MessageValues;
    if (conversation === undefined) continue;
    const talk = talks.get(conversation) ?? { last: null, sides: new Set() };
    if (direction === "in" || direction === "out") talk.sides.add(direction);
    talks.set(conversation, talk);
    // Rows that are there stand in the order in which they were written.
    if (at === null || state === "erased" || rowid === undefined) continue;
    if (talk.last !== null) {
      steps++;
      if (at >= talk.last) rising++;
    }
    talk.last = at;
  }
  return {
    messages: messages.length,
    conversations: talks.size,
    rising: steps > 0 ? rising / steps : 1,
    withTime: share(values, ({ at }) => at !== undefined),
    withSide: share(values, ({ direction }) => direction !== undefined),
    bothSides: [...talks.values()].filter(({ sides }) => sides.size > 1).length,
    withSender: came.length > 0 ? share(came, ({ address, person }) => Boolean(address || person)) : 1,
    attachments: values.reduce((sum, { attachments = [] }) => sum + attachments.length, 0),
    erased: erased.length,
    erasedThatRead: erased.filter((entry) => (entry.values as MessageValues).at && (entry.values as MessageValues).text !== undefined)
      .length,
  };
}
