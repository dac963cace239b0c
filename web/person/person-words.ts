import type { CallValues, ContactValues, EventValues, MessageValues, RecordKind } from "../../core/finds/record.ts";
import { SIDES } from "../calls/call-words.ts";
import { fileWords, lengthWords } from "../people/people-words.ts";
import type { PersonEntry } from "../worker/finds/people-desk.ts";

/** Kinds of what is of a person, as its chips call them. */
export const CHIPS: readonly (readonly [RecordKind, string])[] = [
  ["message", "messages"],
  ["chat", "chats"],
  ["call", "calls"],
  ["contact", "address book"],
  ["event", "calendar"],
];

/** What one line of a time line is, and what it says. */
export function lineWords({ kind, values, store }: PersonEntry): { readonly what: string; readonly text: string } {
  switch (kind) {
    case "call": {
      const { direction, seconds, number } = values as CallValues;
      return { what: "call", text: [direction ? SIDES[direction][0] : number, lengthWords(seconds)].filter(Boolean).join(" · ") };
    }
    case "contact": {
      const { name, phones = [], emails = [] } = values as ContactValues;
      return {
        what: "address book",
        text: [name, ...phones.map(({ number }) => number), ...emails.map(({ address }) => address)].filter(Boolean).join(" · "),
      };
    }
    case "event": {
      const { title, place } = values as EventValues;
      return { what: "calendar", text: [title, place].filter(Boolean).join(", ") };
    }
    default: {
      const { text, subject, attachments = [] } = values as MessageValues;
      const named = attachments.map(fileWords);
      return {
        what: kind === "message" ? "text message" : chatWords(store),
        text: text || subject || named.join(", ") || "nothing written",
      };
    }
  }
}

/** A chat by what reads its app, where that has a name. */
const chatWords = (store: string | undefined): string => (!store || store === "proposed" ? "chat" : store);
