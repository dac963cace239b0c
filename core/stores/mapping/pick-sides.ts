import type { Said } from "./by-hand.ts";
import type { PickedText } from "./pick-text.ts";
import type { PickedTime } from "./pick-time.ts";
import type { Profile } from "./profile.ts";
import { type Candidates, candidatesIn } from "./side-candidates.ts";
import type { PickedSides } from "./sides.ts";
import { byFlag, byFlagAlone, bySaid } from "./sides-by-flag.ts";
import { byEmpty, byOwner, byPair } from "./sides-by-sender.ts";
import type { Column } from "./source.ts";
import { share } from "./statistics.ts";
import { joinsOf, type Surveyed, valueAs } from "./survey.ts";

/** From this score on two columns are sender and recipient, whichever is which. */
const FITS = 0.65;
/** Below this nothing holds together. */
const LEAST_SCORE = 0.2;

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
        consider(said.sides ? bySaid(talk, null, flag, said.sides) : byFlagAlone(messages, talk, flag, senders, text, time));
      }
    return best && withAccounts(withSenders(best, candidates), candidates, others);
  }
  const ends = new Set<Profile>();
  for (const sender of candidates.senders)
    for (const recipient of candidates.recipients) {
      if (sender.profile === recipient.profile) continue;
      const pair = byPair(sender, recipient, said.isFixed("sender") || said.isFixed("conversation"));
      consider(pair);
      // Small numbers of people and of conversations are the same by chance.
      if (pair && pair.score > FITS && sender.profile.texts > 0.9) ends.add(sender.profile).add(recipient.profile);
    }
  for (const talk of candidates.talks) {
    // Half of what a sender's column names is the owner: nobody's conversation is with oneself.
    if (talk.profile !== null && ends.has(talk.profile) && !said.isFixed("conversation")) continue;
    const senders = candidates.senders.filter(({ profile }) => profile !== talk.profile);
    for (const sender of senders) {
      consider(byEmpty(talk, sender));
      consider(byOwner(talk, sender, others));
    }
    for (const flag of candidates.flags) {
      if (flag.profile === talk.profile) continue;
      const named = senders.flatMap((sender) => (flag.profile === sender.profile ? [] : (byFlag(talk, sender, flag) ?? [])));
      for (const one of named) consider(one);
      const alone = byFlagAlone(messages, talk, flag, senders, text, time);
      // Who writes goes with the conversation, and stands on the other side: that tells more than which side has more states.
      if (!named.some((one) => isBound(one) && one.sides.some((side, index) => alone?.sides[index] !== side))) consider(alone);
    }
  }
  return best && withAccounts(withSenders(best, candidates), candidates, others);
}

/** Does who wrote, as the messages say, go with the conversation? */
const isBound = ({ because }: PickedSides): boolean => because.some(({ part, share }) => part === "sender" && share > 0.5);

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
