import type { Gathered } from "../gathered.ts";
import { keyOf } from "../gathered.ts";
import { type ByHand, NOTHING_SAID, Said } from "./by-hand.ts";
import type { Mapping } from "./mapping.ts";
import { pickAttachments } from "./pick-attachments.ts";
import { pickBesides } from "./pick-besides.ts";
import { pickPeople } from "./pick-people.ts";
import { pickSides } from "./pick-sides.ts";
import { pickMarks, pickSystem } from "./pick-system.ts";
import { type PickedText, pickText } from "./pick-text.ts";
import { type PickedTime, pickTime } from "./pick-time.ts";
import { proseScore } from "./profile.ts";
import type { PickedSides } from "./sides.ts";
import { type Surveyed, surveyOf, valueAs } from "./survey.ts";

/** Fewer rows tell nothing. */
const LEAST_ROWS = 12;

export interface Proposed {
  readonly mapping: Mapping;
  /** The table of the messages, for people to read. */
  readonly table: string;
  readonly messages: Surveyed;
  readonly texts: PickedText["texts"];
  readonly sides: PickedSides;
}

interface Candidate {
  readonly messages: Surveyed;
  readonly time: PickedTime;
  readonly text: PickedText;
  readonly sides: PickedSides;
  readonly sureness: number;
}

/**
 * How the tables of a database that nobody knows read as conversations, judged by their shape and contents; names of columns are hints between what the
 * contents leave open. Null: nothing in it looks like messages. `byHand`: what somebody said of it, which is not judged any more.
 */
export const propose = (gathered: Gathered, byHand: ByHand = NOTHING_SAID): Proposed | null => proposeFrom(surveyOf(gathered), byHand);

/** The same of tables that were looked at before. */
export function proposeFrom(surveyed: readonly Surveyed[], byHand: ByHand): Proposed | null {
  const candidates = candidatesIn(surveyed, new Said(byHand));
  return candidates.length > 0 ? proposedBy(candidates[0], candidates, surveyed) : null;
}

/** Tables that read as messages, the best first. */
const candidatesIn = (surveyed: readonly Surveyed[], said: Said): Candidate[] =>
  surveyed
    .flatMap((messages) => (said.table !== null && messages.name !== said.table ? [] : (candidateOf(messages, surveyed, said) ?? [])))
    .sort((a, b) => worth(b) - worth(a));

function proposedBy(best: Candidate, candidates: readonly Candidate[], surveyed: readonly Surveyed[]): Proposed {
  const { messages, text, sides } = best;
  // What reads as messages itself names no conversations and nobody.
  const alike = new Set(candidates.filter((one) => one !== best && one.sureness >= READS_ITSELF).map((one) => one.messages));
  const about = surveyed.filter((one) => !alike.has(one) || one === text.joined?.table);
  return { mapping: mappingOf(best, about), table: messages.name, messages, texts: text.texts, sides };
}

/** From this sureness on a table is one of messages, whatever else it could be. */
const READS_ITSELF = 0.6;

/** Tables of messages that are read of one database at most. */
const MOST_TABLES = 4;
/** Texts of another table that the first one has too: more of them, and it is a copy or an index of that. */
const MOST_ALIKE = 0.1;

/** From this sureness on a proposal is used at once. */
export const SURE = 0.8;

/**
 * What reads as messages, the likeliest first. Where that is as sure as `SURE` there may be further tables, since apps keep messages of groups, or older
 * ones, by themselves. A table that another one reads, or that says again what another one says, is none.
 */
export function likeliestIn(surveyed: readonly Surveyed[]): readonly Proposed[] {
  const candidates = candidatesIn(surveyed, new Said(NOTHING_SAID));
  const told: Proposed[] = [];
  const used = new Set<string>();
  for (const candidate of candidates) {
    if (used.has(candidate.messages.name)) continue;
    if (told.length > 0 && candidate.sureness < READS_ITSELF) break;
    const next = proposedBy(candidate, candidates, surveyed);
    if (told.length > 0 && (saysAgain(next, told) || next.mapping.sureness < (sharesPeople(next, told) ? READS_ITSELF : SURE))) continue;
    told.push(next);
    used.add(next.table);
    for (const name of tablesOf(next.mapping)) used.add(name);
    if (next.mapping.sureness < SURE || told.length === MOST_TABLES) break;
  }
  return told;
}

/** How a database reads as conversations, all of its tables of messages. By hand one table is said: where it is the likeliest one, the further ones stay. */
export function proposeAll(
  surveyed: readonly Surveyed[],
  byHand: ByHand = NOTHING_SAID,
  likeliest: readonly Proposed[] = likeliestIn(surveyed),
): Proposed | null {
  const [first, ...further] = likeliest;
  const main = new Said(byHand).isAny ? proposeFrom(surveyed, byHand) : (first ?? null);
  if (!main || main.table !== first?.table || further.length === 0) return main;
  return { ...main, mapping: { ...main.mapping, more: further.map(({ mapping }) => mapping) } };
}

/** Are its texts those of tables that are read already? */
function saysAgain({ texts }: Proposed, told: readonly Proposed[]): boolean {
  const known = new Set(told.flatMap((one) => one.texts));
  const said = texts.filter((text) => text !== null);
  return said.filter((text) => known.has(text)).length > said.length * MOST_ALIKE;
}

/** Do mostly the same people write in it as in tables that are read already? Small numbers are the same by chance. */
function sharesPeople({ sides }: Proposed, told: readonly Proposed[]): boolean {
  const namesOf = (one: PickedSides) => new Set([...one.senders, ...one.talks].filter((key) => key !== null && !/^\d{1,5}$/.test(key)));
  const known = new Set(told.flatMap((one) => [...namesOf(one.sides)]));
  const own = [...new Set(sides.senders.filter((key) => key !== null))];
  return own.length > 1 && own.filter((key) => known.has(key)).length > own.length / 2;
}

/** All tables that a mapping reads. */
const tablesOf = ({ fits, talk, people, members, drafts, attachments }: Mapping): string[] => [
  ...fits.tables.flatMap((one) => ("name" in one ? one.name : [])),
  ...[talk, people, members, ...drafts, ...attachments].flatMap((one) => one?.table ?? []),
];

/** Of two tables that read as well, the one with more rows. */
const worth = ({ sureness, messages }: Candidate): number => sureness + Math.min(0.04, messages.rows / 100_000);

function candidateOf(messages: Surveyed, all: readonly Surveyed[], said: Said): Candidate | null {
  if (messages.rows < (said.isAny ? 1 : LEAST_ROWS)) return null;
  const time = pickTime(messages, said);
  if (!time) return null;
  const text = pickText(messages, all, said);
  if (!text) return null;
  const others = all.filter((one) => one !== messages && one !== text.joined?.table);
  const sides = pickSides(messages, others, time, text, said);
  if (!sides) return null;
  const known = time.moments.filter((moment) => !Number.isNaN(moment)).length / Math.max(1, messages.sample.length);
  const sureness =
    sides.score *
    (0.55 + 0.45 * Math.min(1, text.score / 0.4)) *
    (0.6 + 0.4 * known) *
    (time.rising > 0.55 ? 1 : 0.9) *
    Math.min(1, 0.75 + messages.sample.length / 200);
  return { messages, time, text, sides, sureness: Math.min(1, Math.max(0, sureness)) };
}

function mappingOf({ messages, time, text, sides, sureness }: Candidate, all: readonly Surveyed[]): Mapping {
  const others = all.filter((one) => one !== messages && one !== text.joined?.table);
  const system = pickSystem(messages, sides, text);
  const people = pickPeople(messages, others, sides);
  const { pattern, name, tables } = messages.source;
  const joins = text.joined ? [{ as: "body", on: [{ col: `m.${text.joined.own}` }, text.joined.key] as [{ col: string }, string] }] : [];
  const refs = [
    pattern === null ? { as: "m", name } : { as: "m", pattern, part: "part" },
    ...(text.joined ? [{ as: "body", name: text.joined.table.name }] : []),
  ];
  // Pictures may stand among the parts that hold the texts.
  const attachments = pickAttachments(
    messages,
    all.filter((one) => one !== messages),
  );
  const own = ownIn(others, sides.own);
  const besides = pickBesides(messages, sides, text);
  const fileRefs = attachments.flatMap(({ table, path, name: called, type, content }) => {
    const value = path ?? called ?? type ?? content;
    return table && value && "col" in value ? [{ as: value.col.slice(0, value.col.indexOf(".")), name: table }] : [];
  });
  return {
    shape: 1,
    name: `proposed: ${name}`,
    app: null,
    fits: { tables: [...refs, ...fileRefs, ...own.refs], columns: { m: tables[0].table.table.columns.map((column) => column.name) } },
    ...people,
    joins,
    own: own.values,
    at: time.time,
    direction: sides.direction,
    system,
    ...(besides.length > 0 && { besides }),
    conversation: sides.conversation,
    text: [...text.values],
    marks: pickMarks(messages, sides, system, time),
    drafts: draftsIn(
      others.filter(({ name }) => name !== people.talk?.table && name !== people.people?.table),
      sides,
    ),
    attachments,
    because: [
      { part: "text", why: text.why, share: Math.min(1, text.score) },
      { part: "time", why: time.why, share: time.rising },
      ...sides.because,
    ],
    sureness: Math.round(sureness * 1000) / 1000,
  };
}

/** Where the owner's name stands alone in a table of its own it is read there: the mapping then reads another phone's database too. */
function ownIn(others: readonly Surveyed[], own: PickedSides["own"]): { values: Mapping["own"]; refs: { as: string; name: string }[] } {
  const [value] = own;
  if (!value || !("const" in value)) return { values: [...own], refs: [] };
  for (const table of others) {
    // A table that names others too is one of people: all of them would be the owner.
    if (table.source.tables.length > 1) continue;
    const column = table.profiles.find(
      (one) => one.column.steps.length === 0 && one.column.values.every((said) => keyOf(said) === value.const),
    );
    if (column && typeof value.const === "string")
      return { values: [valueAs("own", column.column)], refs: [{ as: "own", name: table.name }] };
  }
  return { values: [...own], refs: [] };
}

/** Tables of a few texts, at most one for each conversation: what was begun and not sent. */
function draftsIn(others: readonly Surveyed[], sides: PickedSides): Mapping["drafts"] {
  const from = sides.conversation.by === "columns" ? [sides.talk, ...sides.more] : [];
  if (from.length === 0 || from.includes(null)) return [];
  return others.flatMap((table): Mapping["drafts"] => {
    if (table.rows > 200 || table.source.tables.length > 1) return [];
    const [prose] = table.profiles.filter((one) => proseScore(one) > 0.15 || one.prose > 0.7).sort((a, b) => b.prose - a.prose);
    const clock = table.profiles.find((one) => one.clock !== null && one.filled >= one.known * 0.9);
    if (!prose || !clock?.clock || table.profiles.length > 8) return [];
    const keys = from.map((one) => {
      const known = new Set(one?.column.values.flatMap((value) => keyOf(value) ?? []));
      return table.profiles.filter((other) => {
        const own = other.column.values.flatMap((value) => keyOf(value) ?? []);
        return (
          other !== prose &&
          other !== clock &&
          other.column.steps.length === 0 &&
          own.length > 0 &&
          own.every((key) => known.has(key)) &&
          (other.distinct >= own.length * 0.99 || from.length > 1)
        );
      });
    });
    // The number that counts the drafts themselves is inside of every column of numbers too: the last that fits is the likelier.
    const chosen = keys.map((some) => some.at(-1));
    if (chosen.some((one) => one === undefined)) return [];
    const { unit, epoch, text } = clock.clock;
    const names = chosen.flatMap((one) => (one ? [valueAs("draft", one.column)] : []));
    return [
      {
        table: table.name,
        text: valueAs("draft", prose.column),
        at: { from: valueAs("draft", clock.column), unit, epoch, ...(text && { text }) },
        conversation: names,
      },
    ];
  });
}
