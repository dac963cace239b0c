import { fileNameOf } from "../../finds/attached.ts";
import type { CallValues, ContactValues, EventValues, FoundRecord, MessageValues } from "../../finds/record.ts";

/** Moment of an entry in milliseconds since 1970, or NaN. */
export function momentOf({ kind, values }: FoundRecord): number {
  const { at, start } = values as MessageValues & EventValues;
  const time = kind === "event" ? start : at;
  return time === undefined ? Number.NaN : Date.parse(time);
}

/** All words that an entry can be found by. */
export function wordsIn({ kind, values }: FoundRecord): string {
  switch (kind) {
    case "message":
    case "chat": {
      const { text, address, person, subject, attachments } = values as MessageValues;
      return joined(text, subject, person, address, ...(attachments ?? []).map(fileNameOf));
    }
    case "contact": {
      const { name, phones, emails, organization, note } = values as ContactValues;
      const numbers = (phones ?? []).flatMap(({ number }) => [number, number.replace(/\D/g, "")]);
      return joined(name, organization, note, ...numbers, ...(emails ?? []).map(({ address }) => address));
    }
    case "call": {
      const { number, name } = values as CallValues;
      return joined(name, number, number?.replace(/\D/g, ""));
    }
    case "event": {
      const { title, place, description } = values as EventValues;
      return joined(title, place, description);
    }
    default:
      return "";
  }
}

const joined = (...words: readonly (string | undefined)[]): string => words.filter(Boolean).join("\n");

/** Numbers, mail addresses and handles that an entry is of; where it has none the name that stands in their place. */
export function addressesIn({ kind, values }: FoundRecord): string[] {
  switch (kind) {
    case "message":
    case "chat": {
      const { address, person } = values as MessageValues;
      return some(address || person);
    }
    case "contact": {
      const { name, phones = [], emails = [] } = values as ContactValues;
      const all = [...phones.map(({ number }) => number), ...emails.map(({ address }) => address)].filter(Boolean);
      return all.length > 0 ? all.slice(0, MOST_OF_ONE) : some(name);
    }
    case "call": {
      const { number, name } = values as CallValues;
      return some(number || name);
    }
    case "event":
      return ((values as EventValues).attendees ?? []).map(({ address }) => address).slice(0, MOST_OF_ONE);
    default:
      return [];
  }
}

/** Addresses of one entry that are looked at: a card with more is nobody's. */
const MOST_OF_ONE = 200;
const some = (text: string | undefined): string[] => (text ? [text] : []);
