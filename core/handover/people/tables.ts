import Papa from "papaparse";
import type { CallValues, ContactValues, EventValues, FoundRecord, MessageValues } from "../../finds/record.ts";

/** What a program that opens a table might take for a formula is text (common practice, no source): a mark stands before it. */
const FORMULA = /^[=+\-@\t\r]/;
const NUMBER = /^[+-]?[\d\s().-]+$/;
const defused = (text: string): string => (FORMULA.test(text) && !NUMBER.test(text) ? `'${text}` : text);

type Line = Readonly<Record<string, string | number | undefined>>;

/** The columns of each kind, in the order in which they stand. */
function lineOf(entry: FoundRecord): Line {
  const { state, condition } = entry;
  switch (entry.kind) {
    case "contact": {
      const { name, phones = [], emails = [], organization, note, birthday } = entry.values as ContactValues;
      return {
        name,
        phones: phones.map(({ number }) => number).join(" / "),
        emails: emails.map(({ address }) => address).join(" / "),
        organization,
        note,
        birthday,
        state,
        condition,
      };
    }
    case "call": {
      const { at, direction, number, name, seconds } = entry.values as CallValues;
      return { at, direction, number, name, seconds, state, condition };
    }
    case "event": {
      const { start, end, title, place, description } = entry.values as EventValues;
      return { start, end, title, place, description, state, condition };
    }
    default: {
      const { at, direction, address, person, text, attachments = [], conversation } = entry.values as MessageValues;
      return {
        at,
        direction,
        address,
        person,
        text,
        attachments: attachments.map(({ path, name }) => path ?? name).join(" / "),
        conversation,
        state,
        condition,
      };
    }
  }
}

/** Entries as comma-separated values (RFC 4180), with a byte order mark: without one some programs take them for another encoding. */
export function csvOf(entries: readonly FoundRecord[]): string {
  const lines = entries.map((entry) => {
    const line = lineOf(entry);
    return Object.fromEntries(
      Object.entries(line).map(([name, value]) => [name, typeof value === "string" ? defused(value) : (value ?? "")]),
    );
  });
  return `\ufeff${Papa.unparse(lines, { newline: "\r\n" })}\r\n`;
}

/** Entries as JSON: all that is known of each, in the terms of the terminal interface. */
export const jsonOf = (entries: readonly FoundRecord[]): string =>
  `${JSON.stringify(
    entries.map(({ id, kind, state, condition, store, values }) => ({ id, kind, state, condition, ...(store && { store }), ...values })),
    null,
    1,
  )}\n`;
