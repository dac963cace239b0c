import { keyOf } from "../gathered.ts";
import type { Profile } from "./profile.ts";
import type { SenderCandidate, TalkCandidate } from "./side-candidates.ts";
import { balance, borneOut, bothSides, holdsTogether, scored, together } from "./side-scores.ts";
import { type PickedSides, picked, type Side, simple } from "./sides.ts";
import { share } from "./statistics.ts";
import { type Surveyed, valueAs } from "./survey.ts";
import { hints } from "./words.ts";

/** What went out has no sender, and nothing else says so. */
export function byEmpty(talk: TalkCandidate, sender: SenderCandidate): PickedSides | null {
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
export function byOwner(talk: TalkCandidate, sender: SenderCandidate, others: readonly Surveyed[]): PickedSides | null {
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
export function byPair(sender: SenderCandidate, recipient: SenderCandidate, isSaid: boolean): PickedSides | null {
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
