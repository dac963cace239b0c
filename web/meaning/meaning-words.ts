import type { Role, Scalar } from "../../core/stores/mapping/by-hand.ts";

/** What a column can be, as it is said on the screen. */
export const ROLE_WORDS: Readonly<Record<Role, string>> = {
  when: "when",
  text: "text",
  conversation: "conversation",
  sender: "sender",
  direction: "direction",
  none: "not used",
};

export const JOINED_WORDS = {
  conversations: "in",
  people: "by",
  members: "between",
  texts: "saying",
  attachments: "with",
  "more messages": "and in",
} as const;

/** A value as it is stored: texts in quotes, so that 1 and “1” are told apart. */
export const valueWords = (value: Scalar): string =>
  value === null ? "nothing" : typeof value === "number" ? String(value) : `“${value}”`;

/** 0.998 as 99.8 %. What is not all is never said to be all. */
export function percent(share: number): string {
  const shown = share < 1 ? Math.min(99.9, Math.floor(share * 1000) / 10) : 100;
  return `${shown} %`;
}
