import { keyOf } from "../gathered.ts";
import { type ByHand, SAID } from "./by-hand.ts";
import { orientation } from "./orientation.ts";
import type { PickedText } from "./pick-text.ts";
import type { PickedTime } from "./pick-time.ts";
import type { Flag, SenderCandidate, TalkCandidate } from "./side-candidates.ts";
import { balance, borneOut, bothSides, holdsTogether, isWith, namesWhomWith, scored, together } from "./side-scores.ts";
import { type PickedSides, picked, type Side, storedIn } from "./sides.ts";
import { share, toldBy } from "./statistics.ts";
import { type Surveyed, valueAs } from "./survey.ts";

/** A flag says which rows went out, and those have no sender. */
export function byFlag(talk: TalkCandidate, sender: SenderCandidate, flag: Flag): PickedSides | null {
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

/** A flag says which rows went out, and the conversation, or a column beside it, says with whom. */
export function byFlagAlone(
  messages: Surveyed,
  talk: TalkCandidate,
  flag: Flag,
  senders: readonly SenderCandidate[],
  text: PickedText,
  time: PickedTime,
): PickedSides | null {
  const counts = new Map<string, number>();
  for (const key of flag.keys) counts.set(key ?? "", (counts.get(key ?? "") ?? 0) + 1);
  if (counts.size < 2 || counts.size > 12) return null;
  if (flag.bit !== null || isKind(messages, flag)) return null;
  const withWhom = senders.find(({ profile, keys }) => profile.reachable > 0.6 && namesWhomWith(talk.keys, keys)) ?? null;
  const isHandle = talk.profile !== null && talk.profile.addresses > 0.8;
  const oriented = orientation(messages, flag, talk.keys, text, time);
  if (!oriented) return null;
  const sides = flag.keys.map((key): Side => (oriented.in.has(key ?? "") ? "in" : oriented.out.has(key ?? "") ? "out" : null));
  const both = bothSides(talk.keys, sides);
  const isSaid = isWith(talk) || withWhom !== null || talk.profile === null;
  const ofWhom = isSaid ? 0.98 : isHandle && oriented.sureness > 0.9 ? 0.9 : oriented.sureness > 0.5 ? 0.75 : 0.45;
  const score = scored([
    0.72 + 0.28 * oriented.sureness,
    ofWhom,
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
  return picked(talk, withWhom, flag, sides, score, {
    direction: { by: "value", from: valueAs("m", flag.profile.column), in: storedIn(flag, oriented.in), out: storedIn(flag, oriented.out) },
    own: [],
    why: oriented.why,
    share: oriented.sureness,
    binds: both,
  });
}

/** Somebody said which values came in and which went out. */
export function bySaid(
  talk: TalkCandidate,
  sender: SenderCandidate | null,
  flag: Flag,
  given: NonNullable<ByHand["sides"]>,
): PickedSides | null {
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
