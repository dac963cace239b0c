import type { TalkCandidate } from "./side-candidates.ts";
import type { Side } from "./sides.ts";
import { share, toldBy } from "./statistics.ts";

/** Of conversations with some messages, how many have both sides, by their messages. */
export function bothSides(talks: readonly (string | null)[], sides: readonly Side[]): number {
  const seen = new Map<string, { in: number; out: number }>();
  for (const [index, talk] of talks.entries()) {
    const side = sides[index];
    if (talk === null || side === null) continue;
    const one = seen.get(talk) ?? { in: 0, out: 0 };
    one[side]++;
    seen.set(talk, one);
  }
  let both = 0;
  let all = 0;
  for (const one of seen.values()) {
    const messages = one.in + one.out;
    if (messages < 4) continue;
    all += messages;
    if (one.in > 0 && one.out > 0) both += messages;
  }
  return all > 0 ? both / all : 0.5;
}

/** How much a conversation tells of who writes in it. */
export function together(talks: readonly (string | null)[], senders: readonly (string | null)[], sides: readonly Side[]): number {
  const told: string[] = [];
  const by: string[] = [];
  for (const [index, sender] of senders.entries()) {
    const talk = talks[index];
    if (sender === null || talk === null || sides[index] !== "in") continue;
    told.push(sender);
    by.push(talk);
  }
  return toldBy(told, by);
}

export const balance = (sides: readonly Side[]): number => {
  const out = share(sides, (side) => side === "out");
  return out < 0.04 || out > 0.96 ? 0 : out < 0.1 || out > 0.9 ? 0.7 : 1;
};

/** Rows to a conversation and of them in all: many conversations of one row each are none. */
export function holdsTogether({ keys, count }: Pick<TalkCandidate, "keys" | "count">): number {
  const rows = keys.filter((key) => key !== null).length;
  return count < 1 ? 0 : Math.min(1, rows / count / 3);
}

/** A key that names nothing known is one of conversations where who writes goes with it. */
export const borneOut = ({ quality }: TalkCandidate, binds: number): number =>
  0.7 + 0.3 * (binds > 0.35 ? Math.max(quality, 0.95) : quality);

/** Is a conversation called by whom it is with? */
export const isWith = ({ profile, isPerson }: TalkCandidate): boolean => profile !== null && (profile.reachable > 0.6 || isPerson);

/** Conversations with fewer messages say little of who is in them. */
const LEAST_MESSAGES = 4;

/** Does a column name whom conversations are with: in many of them one and the same in every row, and somebody else in each? In groups it may name who wrote. */
export function namesWhomWith(talks: readonly (string | null)[], named: readonly (string | null)[]): boolean {
  const seen = new Map<string, { rows: number; filled: number; names: Set<string> }>();
  for (const [index, talk] of talks.entries()) {
    if (talk === null) continue;
    const one = seen.get(talk) ?? { rows: 0, filled: 0, names: new Set() };
    one.rows++;
    const name = named[index];
    if (name !== null) {
      one.filled++;
      one.names.add(name);
    }
    seen.set(talk, one);
  }
  const large = [...seen.values()].filter(({ rows }) => rows >= LEAST_MESSAGES);
  const alone = large.filter(({ rows, filled, names }) => names.size === 1 && filled > rows * 0.95);
  const people = new Set(alone.flatMap(({ names }) => [...names]));
  return alone.length >= 3 && alone.length >= large.length * 0.3 && people.size >= alone.length * 0.8;
}

export const scored = (parts: readonly number[]): number => parts.reduce((product, part) => product * part, 1);
