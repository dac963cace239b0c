import { keyOf } from "../gathered.ts";
import type { PickedText } from "./pick-text.ts";
import type { PickedTime } from "./pick-time.ts";
import { isCategory, type Profile } from "./profile.ts";
import { entropy } from "./statistics.ts";
import type { Surveyed } from "./survey.ts";
import { hints } from "./words.ts";

/** Which values of a flag say that a row came in, where no sender tells. */
export interface Orientation {
  readonly in: ReadonlySet<string>;
  readonly out: ReadonlySet<string>;
  readonly sureness: number;
  readonly why: string;
}

interface FlagKeys {
  readonly profile: Profile;
  readonly keys: readonly (string | null)[];
}

/** Words that stand in a column for a direction, as they are usual in several languages. */
const SAID_IN = /^(in|incoming|inbound|inbox|received?|rx|recv|recibido|entrante|empfangen|eingehend|them|other|peer)$/i;
const SAID_OUT = /^(out|outgoing|outbound|outbox|sent|send|tx|enviado|saliente|gesendet|ausgehend|me|self|mine|own|failed|queued)$/i;

export function orientation(
  messages: Surveyed,
  flag: FlagKeys,
  talks: readonly (string | null)[],
  text: PickedText,
  time: PickedTime,
): Orientation | null {
  const counts = new Map<string, number>();
  for (const key of flag.keys) counts.set(key ?? "", (counts.get(key ?? "") ?? 0) + 1);
  const values = [...counts.keys()];
  const said = new Map(values.map((value) => [value, SAID_IN.test(value) ? "in" : SAID_OUT.test(value) ? "out" : null]));
  if ([...said.values()].includes("in") && [...said.values()].includes("out"))
    return { in: namesOf(said, "in"), out: namesOf(said, "out"), sureness: 1, why: "its values say so" };
  const { name } = flag.profile.column;
  const numbered = values.length === 2 && values.every((value) => value === "0" || value === "1" || value === "");
  const [yes, no] = [values.find((value) => value === "1"), values.find((value) => value !== "1")];
  if (numbered && yes !== undefined && no !== undefined) {
    if (hints(name, "out") && !hints(name, "in")) return { in: new Set([no]), out: new Set([yes]), sureness: 1, why: "its name says so" };
    if (hints(name, "in") && !hints(name, "out")) return { in: new Set([yes]), out: new Set([no]), sureness: 1, why: "its name says so" };
  }
  const apart = counts.size > 2 ? codesApart(counts) : null;
  const main = values.filter((value) => (counts.get(value) ?? 0) >= flag.keys.length * 0.12);
  const covered = main.reduce((sum, value) => sum + (counts.get(value) ?? 0), 0);
  // Two values and a few others: what has many of about the same share tells states apart, not sides.
  if (main.length !== 2 || covered < flag.keys.length * 0.85) return apart;
  const votes = main.map((value) => outness(messages, flag, value, main, talks, text, time));
  const [a, b] = votes;
  const difference = Math.abs(a - b);
  const asSystem = difference < 0.3 ? asSystemDoes(main, values) : null;
  if (asSystem && (difference <= 0.05 || (a > b ? main[0] : main[1]) === "2")) return asSystem;
  // Where nothing tells, the smaller number is what came in: common practice, no source.
  const out = difference > 0.05 ? (a > b ? main[0] : main[1]) : main.sort((x, y) => Number(x) - Number(y))[1];
  const came = main.find((value) => value !== out) ?? main[0];
  return {
    in: new Set([came]),
    out: new Set(values.filter((value) => value !== came)),
    sureness: Math.min(0.9, difference * 1.5),
    why:
      difference > 0.05
        ? "what went out has more states, what came in has rows of one side only"
        : "nothing tells which side it is: it is as it usually is",
  };
}

/**
 * 1 came in, 2 went out, and others are few and on their way: the codes of the system's own messages, which apps take over
 * (Android, Telephony.TextBasedSmsColumns: MESSAGE_TYPE_INBOX 1, _SENT 2, _DRAFT 3, _OUTBOX 4, _FAILED 5, _QUEUED 6).
 */
function asSystemDoes(main: readonly string[], values: readonly string[]): Orientation | null {
  if (!main.includes("1") || !main.includes("2") || !values.every((value) => /^[1-6]$/.test(value))) return null;
  const out = new Set(values.filter((value) => value !== "1"));
  return { in: new Set(["1"]), out, sureness: 0.6, why: "its values are those of the system's own messages: 1 came in, 2 went out" };
}

/** Codes are given in rows: those of one side stand near each other, and far from the other's. */
const FAR = 3;

/** Several codes for each side: numbers in two rows with a gap between. What went out has more states, and the larger codes: common practice, no source. */
function codesApart(counts: ReadonlyMap<string, number>): Orientation | null {
  const codes = [...counts.keys()].map(Number).sort((a, b) => a - b);
  if (counts.has("") || codes.length > 12 || !codes.every(Number.isInteger)) return null;
  const gaps = codes.slice(1).map((code, at) => code - codes[at]);
  const widest = gaps.indexOf(Math.max(...gaps));
  if (gaps.some((gap, at) => at !== widest && gap * FAR > gaps[widest])) return null;
  const halves = [codes.slice(0, widest + 1), codes.slice(widest + 1)].map((some) => new Set(some.map(String)));
  const [low, high] = halves;
  if (low.size === high.size) return null;
  const [came, went] = low.size < high.size ? [low, high] : [high, low];
  return { in: came, out: went, sureness: came === low ? 0.4 : 0.2, why: "two rows of codes, and what went out has more states" };
}

const namesOf = (said: ReadonlyMap<string, string | null>, side: string): ReadonlySet<string> =>
  new Set([...said].filter(([, one]) => one === side).map(([key]) => key));

/** How much rows with a value look like sent ones: they have more states; conversations with one side only are of those that come in. */
function outness(
  messages: Surveyed,
  flag: FlagKeys,
  value: string,
  main: readonly string[],
  talks: readonly (string | null)[],
  text: PickedText,
  time: PickedTime,
): number {
  const rows = flag.keys.flatMap((key, index) => ((key ?? "") === value ? [index] : []));
  let score = 0;
  const taken = new Set([flag.profile, ...text.profiles, ...time.profiles].map((one) => one.column.at));
  for (const profile of messages.profiles) {
    if (taken.has(profile.column.at) || !isCategory(profile)) continue;
    const keys = rows.map((index) => keyOf(profile.column.values[index]) ?? "");
    score += Math.min(0.4, entropy(keys) * 0.25);
  }
  const sides = new Map<string, Set<string>>();
  for (const [index, talk] of talks.entries())
    if (talk !== null && main.includes(flag.keys[index] ?? "")) sides.set(talk, (sides.get(talk) ?? new Set()).add(flag.keys[index] ?? ""));
  const oneSided = [...sides.values()].filter((some) => some.size === 1 && some.has(value)).length;
  return score - Math.min(0.5, oneSided * 0.1);
}
