import { keyOf, ROWID, storedAt } from "../gathered.ts";
import { SAID, type Said } from "./by-hand.ts";
import type { MappedValue } from "./mapping.ts";
import { type Profile, proseScore } from "./profile.ts";
import { stepped } from "./steps.ts";
import { type Surveyed, valueAs } from "./survey.ts";
import { hints } from "./words.ts";

export interface PickedText {
  readonly values: readonly MappedValue[];
  /** Columns of the messages that it was taken from: they are nothing else. */
  readonly profiles: readonly Profile[];
  /** Another table that holds it: its column that names the message, and the message's column that it names. */
  readonly joined: { readonly table: Surveyed; readonly key: string; readonly own: string } | null;
  readonly texts: readonly (string | null)[];
  readonly score: number;
  readonly why: string;
}

/** A text of one's own that reads so well is not looked for elsewhere. */
const GOOD = 0.3;
/** What somebody said to be the text is read as one, whatever it looks like. */
const SAID_SO = 0.4;

const textAt = (value: unknown): string | null => (typeof value === "string" && value !== "" ? value : null);

const scoreOf = (profile: Profile, rows: number): number => {
  const { column } = profile;
  const pointer = column.steps.flatMap((step) => (typeof step === "object" && "json" in step ? [step.json] : [])).join(" ");
  const name = pointer || column.name;
  const hint = (hints(name, "text") ? 0.12 : 0) - (hints(name, "title") && !hints(name, "text") ? 0.1 : 0);
  const score = proseScore(profile);
  // Names are words too, and in few rows seldom the same twice.
  const names = profile.personNames > 0.6 ? 0.35 : 1;
  return score === 0 ? 0 : names * score * (0.5 + 0.5 * Math.min(1, profile.filled / Math.max(1, rows * 0.5))) + hint * score;
};

/** Which column holds what was written: words, seldom the same twice; in the messages themselves or beside them. */
export function pickText(messages: Surveyed, others: readonly Surveyed[], said: Said): PickedText | null {
  const own = ownText(messages, said);
  if (own && (own.score >= GOOD || said.isFixed("text"))) return own;
  const beside = besideText(messages, others);
  if (!own || (beside && beside.score > own.score)) return beside ?? own;
  return own;
}

function ownText(messages: Surveyed, said: Said): PickedText | null {
  const rows = messages.sample.length;
  const isSaid = said.isFixed("text");
  const scored = messages.profiles
    .filter(({ column }) => said.may(column, "text"))
    .map((profile) => ({ profile, score: Math.max(scoreOf(profile, rows), isSaid ? SAID_SO : 0) }))
    .filter(({ score }) => score > 0.12)
    .sort((a, b) => b.score - a.score);
  if (scored.length === 0) return null;
  const chosen = [scored[0].profile];
  const texts = scored[0].profile.column.values.map(textAt);
  // What is written under a picture may stand elsewhere than what is written alone.
  for (const { profile } of scored.slice(1)) {
    const more = profile.column.values.map(textAt);
    const filled = more.filter((text) => text !== null).length;
    const alone = more.filter((text, index) => text !== null && texts[index] === null).length;
    const sameWay = profile.column.steps.length > 0 && profile.column.at === chosen[0].column.at;
    if (chosen.length >= 4) continue;
    if (!isSaid && (alone < filled * (sameWay ? 0.5 : 0.8) || (!sameWay && !hints(profile.column.name, "text")))) continue;
    chosen.push(profile);
    for (const [index, text] of more.entries()) texts[index] ??= text;
  }
  return {
    values: chosen.map(({ column }) => valueAs("m", column)),
    profiles: chosen,
    joined: null,
    texts,
    score: scored[0].score,
    why: isSaid
      ? SAID
      : chosen[0].column.steps.length > 0
        ? "packed, and unpacked it reads as words"
        : "reads as words, seldom the same twice",
  };
}

/** Rows beside the messages that hold their text: each names one, and has no time of its own. */
function besideText(messages: Surveyed, others: readonly Surveyed[]): PickedText | null {
  let best: PickedText | null = null;
  for (const table of others) {
    if (table.source === messages.source || table.source.tables.length > 1) continue;
    const [prose] = table.profiles.map((profile) => ({ profile, score: proseScore(profile) })).sort((a, b) => b.score - a.score);
    if (!prose || prose.score < 0.2) continue;
    if (table.profiles.some(({ clock, filled, known }) => clock && filled >= known * 0.9 && clock.unit !== "day")) continue;
    const link = linkBetween(messages, table, prose.profile);
    if (!link) continue;
    const index = table.by(link.key.column.at);
    const texts = messages.sample.map(({ row }) => {
      const key = keyOf(storedAt(row, link.own.column.at));
      const found = key === null ? [] : (index.get(key) ?? []).slice(0, MOST_PARTS);
      const texts = found.map((one) => textAt(stepped(storedAt(one, prose.profile.column.at), prose.profile.column.steps)));
      return texts.find((text) => text !== null) ?? null;
    });
    const covered = texts.filter((text) => text !== null).length / Math.max(1, texts.length);
    if (covered < 0.25) continue;
    const score = prose.score * (0.6 + 0.4 * covered) * link.share;
    if (best && best.score >= score) continue;
    best = {
      values: [valueAs("body", prose.profile.column)],
      profiles: [],
      joined: { table, key: link.key.column.name, own: link.own.column.name },
      texts,
      score,
      why: `stands in ${table.name}, whose rows name the messages`,
    };
  }
  return best;
}

/** Rows beside a message that are looked through for its text. */
const MOST_PARTS = 20;

/** Columns of which each value stands beside one text: in rows without a text, of pictures, it may stand again. */
function namingIn(table: Surveyed, prose: Profile): readonly Profile[] {
  const isText = prose.column.values.map((value) => textAt(value) !== null);
  const parts = table.profiles.filter(({ column, clock, numbers, integers, distinct, filled, prose: words }) => {
    if (column.steps.length > 0 || clock !== null || words >= 0.3 || numbers !== integers || distinct < filled * 0.3) return false;
    const keys = column.values.flatMap((value, index) => (isText[index] ? (keyOf(value) ?? []) : []));
    return keys.length > 0 && new Set(keys).size >= keys.length * 0.98;
  });
  return [...table.keys, ...parts.filter((one) => !table.keys.includes(one))];
}

/** The columns by which rows of a table name messages, each one. */
function linkBetween(messages: Surveyed, table: Surveyed, prose: Profile): { key: Profile; own: Profile; share: number } | null {
  const names = namingIn(table, prose);
  let best: { key: Profile; own: Profile; share: number } | null = null;
  for (const own of messages.keys) {
    const index = messages.by(own.column.at);
    for (const key of names) {
      const keys = key.column.values.flatMap((value) => keyOf(value) ?? []);
      const share = keys.filter((one) => index.has(one)).length / Math.max(1, keys.length);
      // A row id of its own that is no other thing's name is in step with anything: a column is the better name.
      const better = best === null || share > best.share + 0.01 || (share > best.share - 0.01 && best.key.column.at === ROWID);
      if (share >= 0.9 && better) best = { key, own, share };
    }
  }
  return best;
}
