import type { Value } from "../../sqlite/format/record.ts";
import { keyOf } from "../gathered.ts";
import { type ByHand, SAID, type Said } from "./by-hand.ts";
import type { MappedValue, Mapping } from "./mapping.ts";
import { orientation } from "./orientation.ts";
import type { PickedText } from "./pick-text.ts";
import type { PickedTime } from "./pick-time.ts";
import type { Profile } from "./profile.ts";
import { type Candidates, candidatesIn, type Flag, type SenderCandidate, type TalkCandidate } from "./side-candidates.ts";
import type { Column } from "./source.ts";
import { share, toldBy } from "./statistics.ts";
import { joinsOf, type Surveyed, valueAs } from "./survey.ts";
import { hints } from "./words.ts";

export type Side = "in" | "out" | null;
/** Below this nothing holds together. */
const LEAST_SCORE = 0.2;

/** Who wrote to whom, in which conversation. */
export interface PickedSides {
  readonly direction: Mapping["direction"];
  readonly own: readonly MappedValue[];
  readonly conversation: Mapping["conversation"];
  /** Column that conversations are told apart by; null: by sender and recipient, or by the table. */
  readonly talk: Profile | null;
  readonly more: readonly Profile[];
  readonly sender: Profile | null;
  readonly flag: Profile | null;
  /** Of each row of the sample: what it says of these. */
  readonly sides: readonly Side[];
  readonly talks: readonly (string | null)[];
  readonly senders: readonly (string | null)[];
  readonly score: number;
  readonly because: Mapping["because"];
}

/** Finds which rows came in and which went out, who sent them and what holds a conversation together, by how these agree with each other. */
export function pickSides(
  messages: Surveyed,
  others: readonly Surveyed[],
  time: PickedTime,
  text: PickedText,
  said: Said,
): PickedSides | null {
  const taken = new Set<Column>([...time.profiles, ...text.profiles].map(({ column }) => column));
  const candidates = candidatesIn(messages, others, taken, said);
  const least = said.isAny ? -1 : LEAST_SCORE;
  let best: PickedSides | null = null;
  const consider = (one: PickedSides | null) => {
    if (one && one.score > (best?.score ?? least)) best = one;
  };
  if (said.isFixed("direction")) {
    for (const flag of candidates.flags)
      for (const talk of candidates.talks) {
        if (flag.profile === talk.profile) continue;
        const senders = candidates.senders.filter(({ profile }) => profile !== talk.profile && profile !== flag.profile);
        for (const sender of senders) consider(said.sides ? bySaid(talk, sender, flag, said.sides) : byFlag(talk, sender, flag));
        consider(said.sides ? bySaid(talk, null, flag, said.sides) : byFlagAlone(messages, talk, flag, text, time));
      }
    return best && withAccounts(withSenders(best, candidates), candidates, others);
  }
  for (const talk of candidates.talks) {
    for (const sender of candidates.senders) {
      if (sender.profile === talk.profile) continue;
      for (const flag of candidates.flags)
        if (flag.profile !== talk.profile && flag.profile !== sender.profile) consider(byFlag(talk, sender, flag));
      consider(byEmpty(talk, sender));
      consider(byOwner(talk, sender, others));
    }
    for (const flag of candidates.flags) if (flag.profile !== talk.profile) consider(byFlagAlone(messages, talk, flag, text, time));
  }
  for (const sender of candidates.senders)
    for (const recipient of candidates.recipients)
      if (sender.profile !== recipient.profile) consider(byPair(sender, recipient, said.isFixed("sender") || said.isFixed("conversation")));
  return best && withAccounts(withSenders(best, candidates), candidates, others);
}

/** Of conversations with some messages, how many have both sides, by their messages. */
function bothSides(talks: readonly (string | null)[], sides: readonly Side[]): number {
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
function together(talks: readonly (string | null)[], senders: readonly (string | null)[], sides: readonly Side[]): number {
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

const balance = (sides: readonly Side[]): number => {
  const out = share(sides, (side) => side === "out");
  return out < 0.04 || out > 0.96 ? 0 : out < 0.1 || out > 0.9 ? 0.7 : 1;
};

/** Rows to a conversation and of them in all: many conversations of one row each are none. */
function holdsTogether({ keys, count }: Pick<TalkCandidate, "keys" | "count">): number {
  const rows = keys.filter((key) => key !== null).length;
  return count < 1 ? 0 : Math.min(1, rows / count / 3);
}

/** A key that names nothing known is one of conversations where who writes goes with it. */
const borneOut = ({ quality }: TalkCandidate, binds: number): number => 0.7 + 0.3 * (binds > 0.35 ? Math.max(quality, 0.95) : quality);

/** Is a conversation called by whom it is with? */
const isWith = ({ profile, isPerson }: TalkCandidate): boolean => profile !== null && (profile.reachable > 0.6 || isPerson);

const scored = (parts: readonly number[]): number => parts.reduce((product, part) => product * part, 1);

/** A flag says which rows went out, and those have no sender. */
function byFlag(talk: TalkCandidate, sender: SenderCandidate, flag: Flag): PickedSides | null {
  const values = new Map<string, { rows: number; sent: number }>();
  for (const [index, key] of flag.keys.entries()) {
    const name = key ?? "";
    const one = values.get(name) ?? { rows: 0, sent: 0 };
    one.rows++;
    if (sender.keys[index] !== null) one.sent++;
    values.set(name, one);
  }
  if (values.size < 2 || values.size > 24) return null;
  const ins = new Set([...values].filter(([, { rows, sent }]) => sent > rows * 0.02 && sent > 0).map(([key]) => key));
  if (ins.size === 0 || ins.size === values.size) return null;
  const sides = flag.keys.map((key): Side => (ins.has(key ?? "") ? "in" : "out"));
  const came = sides.flatMap((side, index) => (side === "in" ? [index] : []));
  // Where a conversation names its senders at all, it names all of them.
  const naming = new Set(came.flatMap((index) => (sender.keys[index] !== null ? (talk.keys[index] ?? []) : [])));
  const inNaming = came.filter((index) => naming.has(talk.keys[index] ?? ""));
  const named = share(inNaming, (index) => sender.keys[index] !== null);
  const all = share(came, (index) => sender.keys[index] !== null);
  const binds = together(talk.keys, sender.keys, sides);
  const both = bothSides(talk.keys, sides);
  const score = scored([
    0.5 + 0.5 * named,
    // Where a conversation is called by whom it is with, only groups need to say who wrote.
    all > 0.9 || (isWith(talk) && named > 0.95) ? 1 : 0.92,
    0.55 + 0.45 * Math.min(1, binds / 0.35),
    0.6 + 0.4 * Math.min(1, both / 0.6),
    balance(sides),
    borneOut(talk, binds),
    0.7 + 0.3 * sender.quality,
    holdsTogether(talk),
    flag.bit === null ? 1 : 0.98,
    // Senders of few messages only say little of the others.
    Math.min(1, 0.75 + all * 2),
  ]);
  return picked(talk, sender, flag, sides, score, {
    direction: {
      by: "value",
      from: valueAs("m", flag.profile.column),
      in: storedIn(flag, ins),
      out: storedIn(flag, new Set([...values.keys()].filter((key) => !ins.has(key)))),
    },
    own: [],
    why: "rows with these values have no sender",
    share: named,
    binds,
  });
}

/** What is stored where a key stands: keys are texts, values may be numbers. */
function storedIn(flag: Flag, keys: ReadonlySet<string>): (string | number | null)[] {
  const stored = new Map<string, string | number | null>();
  for (const [index, value] of flag.profile.column.values.entries()) {
    const key = flag.keys[index] ?? "";
    if (keys.has(key) && !stored.has(key)) stored.set(key, simple(value));
  }
  return [...stored.values()];
}

const simple = (value: Value | undefined): string | number | null =>
  value === undefined || value === null
    ? null
    : typeof value === "bigint"
      ? Number(value)
      : value instanceof Uint8Array
        ? keyOf(value)
        : value;

/** What went out has no sender, and nothing else says so. */
function byEmpty(talk: TalkCandidate, sender: SenderCandidate): PickedSides | null {
  const sides = sender.keys.map((key): Side => (key === null ? "out" : "in"));
  const binds = together(talk.keys, sender.keys, sides);
  const both = bothSides(talk.keys, sides);
  const score = scored([
    0.94,
    0.3 + 0.7 * Math.min(1, binds / 0.35),
    0.2 + 0.8 * Math.min(1, both / 0.6),
    balance(sides),
    borneOut(talk, binds),
    0.5 + 0.5 * sender.quality,
    holdsTogether(talk),
  ]);
  return picked(talk, sender, null, sides, score, {
    direction: { by: "empty", from: valueAs("m", sender.profile.column), empty: "out" },
    own: [],
    why: "a sender is named only in some rows of nearly every conversation",
    share: both,
    binds,
  });
}

/** One sender is in nearly all conversations, the others each in few: it is the owner. */
function byOwner(talk: TalkCandidate, sender: SenderCandidate, others: readonly Surveyed[]): PickedSides | null {
  const talks = new Map<string, Set<string>>();
  const rows = new Map<string, number>();
  for (const [index, key] of sender.keys.entries()) {
    const where = talk.keys[index];
    if (key === null || where === null) continue;
    talks.set(key, (talks.get(key) ?? new Set()).add(where));
    rows.set(key, (rows.get(key) ?? 0) + 1);
  }
  const order = [...talks].sort((a, b) => b[1].size - a[1].size);
  const [first, second] = order;
  if (!first || !second) return null;
  const reach = first[1].size / Math.max(1, talk.count);
  const next = second[1].size / Math.max(1, talk.count);
  const single = singleRows(others).some((one) => one === first[0]);
  if (reach < 0.55 || (next > reach * 0.75 && !single)) return null;
  const sides = sender.keys.map((key): Side => (key === null ? null : key === first[0] ? "out" : "in"));
  const binds = together(talk.keys, sender.keys, sides);
  const both = bothSides(talk.keys, sides);
  const score = scored([
    single ? 1 : 0.97,
    0.75 + 0.25 * Math.min(1, reach / 0.85),
    0.25 + 0.75 * Math.min(1, binds / 0.35),
    0.6 + 0.4 * Math.min(1, both / 0.6),
    balance(sides),
    borneOut(talk, binds),
    0.7 + 0.3 * Math.max(sender.quality, 0.6),
    holdsTogether(talk),
    Math.min(1, 0.6 + share(sender.keys, (key) => key !== null) * 0.5),
  ]);
  const own = simple(sender.profile.column.values[sender.keys.indexOf(first[0])]);
  return picked(talk, sender, null, sides, score, {
    direction: { by: "sender", from: valueAs("m", sender.profile.column) },
    own: [{ const: own }],
    why: `one sender writes in ${Math.round(reach * 100)} % of the conversations, the others each in few`,
    share: reach,
    binds,
  });
}

/** What tables of one row or few say: who the owner is may stand there. */
function singleRows(others: readonly Surveyed[]): string[] {
  return others
    .filter(({ rows }) => rows <= 8)
    .flatMap(({ profiles }) =>
      profiles.flatMap(({ column }) =>
        column.steps.length === 0
          ? column.values.flatMap((value) => (typeof value === "string" || value instanceof Uint8Array ? (keyOf(value) ?? []) : []))
          : [],
      ),
    );
}

/**
 * Which of two ends writes? What others write goes to groups: those are fewer than who writes, and many write to each. What nobody wrote has no sender.
 * @returns 1 for the ends as they are, less for the other way round
 */
function endsRight(sender: SenderCandidate, recipient: SenderCandidate, own: string): number {
  const [from, to] = [new Set<string>(), new Set<string>()];
  let [unsent, unaddressed] = [0, 0];
  for (const [index, one] of sender.keys.entries()) {
    const other = recipient.keys[index];
    if (one === null) unsent++;
    if (other === null) unaddressed++;
    if (one === null || other === null || one === own || other === own) continue;
    from.add(one);
    to.add(other);
  }
  if (unsent !== unaddressed) return unsent > unaddressed ? 1 : 0.7;
  if (from.size !== to.size) return from.size > to.size ? 1 : 0.7;
  const [first, second] = [sender.profile.column.name, recipient.profile.column.name];
  if (hints(first, "from") !== hints(second, "from")) return hints(first, "from") ? 0.98 : 0.7;
  return hints(first, "to") ? 0.7 : hints(second, "to") ? 0.98 : sender.profile.column.at < recipient.profile.column.at ? 0.78 : 0.77;
}

/** A column of yes and no, where more than two people write, is nobody's address: small numbers of people are the same as it by chance. */
const isYesOrNo = ({ distinct, integers, least, most }: Profile, other: Profile): boolean =>
  distinct <= 2 && integers === 1 && least >= 0 && most <= 1 && other.distinct > 2;

/** Sender and recipient: the owner is one of them in every row, but for what others write to a group. */
function byPair(sender: SenderCandidate, recipient: SenderCandidate, isSaid: boolean): PickedSides | null {
  if (Math.abs(sender.profile.texts - recipient.profile.texts) > 0.3 || Math.min(sender.quality, recipient.quality) < 0.65) return null;
  if (isYesOrNo(sender.profile, recipient.profile) || isYesOrNo(recipient.profile, sender.profile)) return null;
  const rows = sender.keys.length;
  const counts = new Map<string, { from: number; to: number }>();
  const note = (key: string | null, end: "from" | "to") => {
    if (key === null) return;
    const one = counts.get(key) ?? { from: 0, to: 0 };
    one[end]++;
    counts.set(key, one);
  };
  for (const key of sender.keys) note(key, "from");
  for (const key of recipient.keys) note(key, "to");
  const [owner] = [...counts].sort((a, b) => Math.min(b[1].from, b[1].to * 4) - Math.min(a[1].from, a[1].to * 4));
  if (!owner || owner[1].from < rows * 0.04 || owner[1].to < rows * 0.02) return null;
  const [own] = owner;
  const apart = sender.keys.filter((key, index) => key !== null && key === recipient.keys[index]).length / rows;
  if (apart > 0.05) return null;
  const common = new Set(sender.keys.filter((key) => key !== null && key !== own && recipient.keys.includes(key)));
  const whole = share(
    sender.keys.map((key, index) => [key, recipient.keys[index]]),
    ([from, to]) => from !== null && to !== null,
  );
  const sides = sender.keys.map((key): Side => (key === null ? null : key === own ? "out" : "in"));
  const talks = sender.keys.map((key, index) => (recipient.keys[index] !== own ? recipient.keys[index] : key));
  const known = share(
    sides.map((side, index) => [side, recipient.keys[index]] as const),
    ([side, to]) => side === "out" || to === own,
  );
  const both = bothSides(talks, sides);
  const talk: TalkCandidate = {
    profile: null,
    keys: talks,
    count: new Set(talks).size,
    quality: 1,
    isPerson: true,
    why: "sender and recipient: with whom it is",
  };
  // Which is which was said, or is told by what they hold.
  const ends = isSaid ? 1 : endsRight(sender, recipient, own);
  const score =
    ends *
    scored([
      0.6 + 0.4 * Math.min(1, whole / 0.9),
      0.5 + 0.5 * Math.min(1, known / 0.4),
      Math.min(1, 0.4 + common.size / Math.max(1, Math.min(sender.profile.distinct, recipient.profile.distinct)) / 0.5),
      0.5 + 0.5 * Math.min(1, both / 0.6),
      balance(sides),
      0.6 + 0.4 * Math.max(sender.quality, recipient.quality),
      holdsTogether(talk),
    ]);
  const ownValue = simple(sender.profile.column.values[sender.keys.indexOf(own)]);
  const pair = { sender: valueAs("m", sender.profile.column), recipient: valueAs("m", recipient.profile.column) };
  return {
    direction: { by: "pair", ...pair },
    own: [{ const: ownValue }],
    conversation: { by: "pair", ...pair },
    talk: null,
    more: [],
    sender: sender.profile,
    flag: null,
    sides,
    talks,
    senders: sides.map((side, index) => (side === "in" ? sender.keys[index] : null)),
    score,
    because: [
      { part: "direction", why: "one address is sender or recipient of nearly every row", share: known },
      { part: "conversation", why: talk.why, share: whole },
    ],
  };
}

/** Does a flag only tell which rows carry a file? */
function isKind(messages: Surveyed, flag: Flag): boolean {
  const files = messages.profiles.filter(
    ({ column, files, mimes, media }) => column !== flag.profile.column && (files > 0.7 || mimes > 0.7 || media > 0.5),
  );
  return files.some(({ column }) => {
    const full = column.values.map((value) => keyOf(value) !== null || value instanceof Uint8Array);
    const told = toldBy(
      full.map(String),
      flag.keys.map((key) => key ?? ""),
    );
    return told > 0.5;
  });
}

/** A flag says which rows went out, and the conversation says with whom. */
function byFlagAlone(messages: Surveyed, talk: TalkCandidate, flag: Flag, text: PickedText, time: PickedTime): PickedSides | null {
  const counts = new Map<string, number>();
  for (const key of flag.keys) counts.set(key ?? "", (counts.get(key ?? "") ?? 0) + 1);
  if (counts.size < 2 || counts.size > 12) return null;
  if (flag.bit !== null || isKind(messages, flag)) return null;
  const isHandle = talk.profile !== null && talk.profile.addresses > 0.8;
  const oriented = orientation(messages, flag, talk.keys, text, time);
  if (!oriented) return null;
  const sides = flag.keys.map((key): Side => (oriented.in.has(key ?? "") ? "in" : oriented.out.has(key ?? "") ? "out" : null));
  const both = bothSides(talk.keys, sides);
  const score = scored([
    0.72 + 0.28 * oriented.sureness,
    isWith(talk) || talk.profile === null ? 0.98 : isHandle && oriented.sureness > 0.9 ? 0.9 : oriented.sureness > 0.5 ? 0.75 : 0.45,
    0.3 + 0.7 * Math.min(1, both / 0.6),
    balance(sides),
    0.5 + 0.5 * talk.quality,
    holdsTogether(talk),
    // Two or three conversations are seldom all that there are: such a column tells something else apart.
    talk.count < 4 ? 0.6 : 1,
    // A flag that is set seldom is a mark of something else.
    Math.min(
      1,
      0.2 +
        5 *
          Math.min(
            share(sides, (side) => side === "in"),
            share(sides, (side) => side === "out"),
          ),
    ),
  ]);
  return picked(talk, null, flag, sides, score, {
    direction: { by: "value", from: valueAs("m", flag.profile.column), in: storedIn(flag, oriented.in), out: storedIn(flag, oriented.out) },
    own: [],
    why: oriented.why,
    share: oriented.sureness,
    binds: both,
  });
}

/** Somebody said which values came in and which went out. */
function bySaid(talk: TalkCandidate, sender: SenderCandidate | null, flag: Flag, given: NonNullable<ByHand["sides"]>): PickedSides | null {
  const [came, went] = [given.in, given.out].map((some) => new Set(some.map((value) => keyOf(value) ?? "")));
  const sides = flag.keys.map((key): Side => (came.has(key ?? "") ? "in" : went.has(key ?? "") ? "out" : null));
  const score = scored([0.5 + 0.5 * talk.quality, holdsTogether(talk), sender ? 0.5 + 0.5 * sender.quality : 0.6]);
  return picked(talk, sender, flag, sides, score, {
    direction: { by: "value", from: valueAs("m", flag.profile.column), in: [...given.in], out: [...given.out] },
    own: [],
    why: SAID,
    share: 1,
    binds: sender ? together(talk.keys, sender.keys, sides) : 0,
  });
}

interface Told {
  readonly direction: Mapping["direction"];
  readonly own: readonly MappedValue[];
  readonly why: string;
  readonly share: number;
  readonly binds: number;
}

function picked(
  talk: TalkCandidate,
  sender: SenderCandidate | null,
  flag: Flag | null,
  sides: readonly Side[],
  score: number,
  told: Told,
): PickedSides | null {
  return {
    direction: told.direction,
    own: told.own,
    conversation: { by: "columns", from: [talk.profile ? valueAs("m", talk.profile.column) : { part: "part" }] },
    talk: talk.profile,
    more: [],
    sender: sender?.profile ?? null,
    flag: flag?.profile ?? null,
    sides,
    talks: talk.keys,
    senders: sides.map((side, index) => (side === "in" ? (sender?.keys[index] ?? null) : null)),
    score,
    because: [
      { part: "direction", why: told.why, share: told.share },
      { part: "conversation", why: talk.why, share: talk.quality },
      ...(sender ? [{ part: "sender", why: "in a conversation the same few write", share: Math.min(1, told.binds) }] : []),
    ],
  };
}

/** Where only groups name who wrote, a flag alone told the sides: a column that speaks only in what came in names them. */
function withSenders(sides: PickedSides, { senders }: Candidates): PickedSides {
  if (sides.sender || !sides.flag) return sides;
  const fitting = senders.filter(({ profile, keys }) => {
    if (profile === sides.talk || profile === sides.flag) return false;
    const named = keys.flatMap((key, index) => (key !== null ? [sides.sides[index]] : []));
    return named.length >= 3 && share(named, (side) => side === "in") > 0.99;
  });
  const [best] = fitting.sort((a, b) => b.quality - a.quality);
  if (!best) return sides;
  return { ...sides, sender: best.profile, senders: sides.sides.map((side, index) => (side === "in" ? best.keys[index] : null)) };
}

/**
 * One app may have several accounts: then a column of few values names a row of a table as small, and goes with the conversation, since one account
 * seldom writes to those of another.
 */
function withAccounts(sides: PickedSides, candidates: Candidates, others: readonly Surveyed[]): PickedSides {
  if (sides.conversation.by !== "columns" || !sides.talk) return sides;
  const talks = sides.talks.map((key) => key ?? "");
  const count = new Set(talks).size;
  for (const { profile, keys } of candidates.flags) {
    if (
      profile === sides.flag ||
      profile === sides.sender ||
      profile === sides.talk ||
      profile.distinct > 6 ||
      profile.filled < keys.length * 0.99
    )
      continue;
    const [join] = joinsOf(
      profile.column,
      others.filter(({ rows }) => rows <= 12),
    );
    const isAccount =
      join &&
      join.share === 1 &&
      join.to.profiles.some(({ addresses, personNames, texts }) => texts > 0.9 && (addresses > 0.6 || personNames > 0.6));
    const both = new Set(talks.map((talk, index) => `${talk}\u0000${keys[index]}`)).size;
    if (!isAccount || both > count * 1.5) continue;
    const from = [...sides.conversation.from, valueAs("m", profile.column)];
    return {
      ...sides,
      conversation: { by: "columns", from },
      more: [profile],
      talks: talks.map((talk, index) => JSON.stringify([talk, keys[index]])),
      because: [...sides.because, { part: "conversation", why: `by the account as well: it names a row of ${join.to.name}`, share: 1 }],
    };
  }
  return sides;
}
