import { keyOf } from "../gathered.ts";
import { type Role, SAID, type Said } from "./by-hand.ts";
import { type PeopleTable, peopleTable } from "./people-tables.ts";
import { isCategory, type Profile, proseScore } from "./profile.ts";
import { type Column, columnOf } from "./source.ts";
import { share } from "./statistics.ts";
import { type Join, joinsOf, type Surveyed } from "./survey.ts";

/** A row's key in a column. */
const keysOf = (column: Column): (string | null)[] => column.values.map(keyOf);

/** What the other columns may be, once times and text are told. */
export interface Candidates {
  readonly talks: readonly TalkCandidate[];
  readonly senders: readonly SenderCandidate[];
  /** Whom a row may be to, where sender and recipient stand side by side. */
  readonly recipients: readonly SenderCandidate[];
  readonly flags: readonly Flag[];
}
export interface TalkCandidate {
  readonly profile: Profile | null;
  readonly keys: readonly (string | null)[];
  readonly count: number;
  /** How it looks like naming a conversation, 0 to 1, by what it joins or is. */
  readonly quality: number;
  /** It names somebody who can be reached. */
  readonly isPerson: boolean;
  readonly why: string;
}
export interface SenderCandidate {
  readonly profile: Profile;
  readonly keys: readonly (string | null)[];
  readonly quality: number;
}
export interface Flag {
  readonly profile: Profile;
  readonly keys: readonly (string | null)[];
  readonly bit: number | null;
}

/** Names with a dot in them look like files', but files have few endings, and stand in folders. */
function areHandles({ values }: Column): boolean {
  const names = new Set(values.filter((value) => typeof value === "string" && value !== ""));
  const endings = new Set(Array.from(names, (name) => String(name).slice(String(name).lastIndexOf(".") + 1)));
  return names.size >= 2 && endings.size > names.size * 0.6 && ![...names].some((name) => /[/\\]/.test(String(name)));
}

const isSide = (role: Role | null): boolean => role === "conversation" || role === "sender" || role === "direction";

export function candidatesIn(messages: Surveyed, others: readonly Surveyed[], taken: ReadonlySet<Column>, said: Said): Candidates {
  const rows = messages.sample.length;
  const open = messages.profiles.filter(
    ({ column, clock, numbers, integers, distinct, filled, media, mimes, files, urls }) =>
      isSide(said.roleOf(column)) ||
      (said.roleOf(column) === null &&
        !taken.has(column) &&
        (!clock || (clock.text === undefined && distinct < 3)) &&
        integers === numbers &&
        distinct > 0 &&
        media < 0.3 &&
        mimes < 0.3 &&
        (files < 0.5 || (filled >= distinct * 3 && areHandles(column))) &&
        urls < 0.5),
  );
  const people = new Map(
    others.flatMap((table) => {
      const one = peopleTable(table);
      return one ? [[table, one] as const] : [];
    }),
  );
  const talks: TalkCandidate[] = [];
  const senders: SenderCandidate[] = [];
  const recipients: SenderCandidate[] = [];
  const flags: Flag[] = [];
  if (messages.source.pattern !== null && !said.isFixed("conversation")) {
    const keys = messages.sample.map(({ part }) => part);
    talks.push({ profile: null, keys, count: new Set(keys).size, quality: 1, isPerson: false, why: "a table for each conversation" });
  }
  for (const profile of open) {
    const keys = keysOf(profile.column);
    const repeats = profile.filled >= Math.max(4, profile.distinct * 1.8);
    const joins = repeats && profile.distinct >= 2 ? joinsOf(profile.column, others) : [];
    const isName = profile.personNames > 0.7;
    const [mayTalk, maySend, mayFlag] = (["conversation", "sender", "direction"] as const).map((role) => said.may(profile.column, role));
    const isOne = (role: Role, looks: boolean) => said.roleOf(profile.column) === role || looks;
    if (
      mayTalk &&
      isOne("conversation", repeats && profile.filled >= rows * 0.94 && (isName || proseScore(profile) < 0.3) && profile.distinct >= 2)
    ) {
      const [quality, why] = talkQuality(profile, joins, people);
      const isPerson = joins.length > 0 && joins[0].score > 0.5 && (people.get(joins[0].to)?.addresses.length ?? 0) > 0;
      talks.push({ profile, keys, count: profile.distinct, quality, isPerson, why: said.isFixed("conversation") ? SAID : why });
    }
    const names = repeats && profile.filled >= rows * 0.03 && profile.distinct >= 2 && (isName || proseScore(profile) < 0.3);
    const quality = names || said.roleOf(profile.column) !== null ? senderQuality(profile, joins, people) : 0;
    if (maySend && (quality > 0 || said.isFixed("sender"))) senders.push({ profile, keys, quality });
    if (mayTalk && quality > 0) recipients.push({ profile, keys, quality });
    if (!mayFlag) continue;
    if (isOne("direction", isCategory(profile) || (profile.distinct === 2 && profile.filled >= 6)))
      flags.push({ profile, keys, bit: null });
    else if (profile.integers === 1 && profile.distinct <= 200 && profile.least >= 0 && profile.most < 2 ** 40)
      flags.push(...bitsOf(messages, profile));
  }
  return { talks, senders, recipients, flags };
}

/** Flags that are kept as bits of one number. */
function bitsOf(messages: Surveyed, profile: Profile): Flag[] {
  const { column } = profile;
  return Array.from({ length: 16 }, (_, bit) => bit).flatMap((bit) => {
    const own = columnOf(column.source, messages.sample, column.at, [...column.steps, { bit }]);
    const keys = keysOf(own);
    const set = share(keys, (key) => key === "1");
    return set > 0.03 && set < 0.97 ? [{ profile: { ...profile, column: own, distinct: 2 }, keys, bit }] : [];
  });
}

function talkQuality(profile: Profile, joins: readonly Join[], people: ReadonlyMap<Surveyed, PeopleTable>): [number, string] {
  const [join] = joins;
  if (profile.reachable > 0.6) return [1, "the address of whom it is with"];
  if (join && join.score > 0.55)
    return [
      Math.min(1, 0.75 + join.score / 4),
      people.has(join.to) ? `names a row of ${join.to.name}, who it is with` : `names a row of ${join.to.name}`,
    ];
  if (profile.addresses > 0.8) return [0.9, "a key of its own"];
  if (profile.personNames > 0.8) return [0.8, "the name of whom it is with"];
  if (join) return [0.7, `may name a row of ${join.to.name}`];
  if (profile.codes > 0.8 || profile.areIds || profile.most > 1000) return [0.65, "a key of its own"];
  return [0.4, "the same in many rows"];
}

function senderQuality(profile: Profile, joins: readonly Join[], people: ReadonlyMap<Surveyed, PeopleTable>): number {
  if (joins.some(({ to, score }) => people.has(to) && score > 0.5)) return 1;
  if (profile.addresses > 0.6) return 0.95;
  if (profile.personNames > 0.7) return 0.9;
  if (joins.length > 0 && people.has(joins[0].to)) return 0.8;
  if (profile.codes > 0.7 || profile.areIds) return 0.7;
  return profile.distinct >= 3 && profile.integers > 0.9 ? 0.45 : 0;
}
