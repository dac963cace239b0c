import { keyOf, ROWID } from "../gathered.ts";
import type { MappedValue, Mapping } from "./mapping.ts";
import { addressesIn, namesIn, type PeopleTable, peopleTable } from "./people-tables.ts";
import { isCategory, type Profile } from "./profile.ts";
import type { PickedSides } from "./sides.ts";
import { type Column, columnOf } from "./source.ts";
import { type Join, joinsOf, type Surveyed, valueAs } from "./survey.ts";
import { hints } from "./words.ts";

type PeopleParts = Pick<Mapping, "talk" | "members" | "people" | "sender" | "joins">;

const columnNames = (profiles: readonly Profile[]): string[] => profiles.slice(0, 3).map(({ column }) => column.name);

/** Who people are, what conversations are called, and who is in them. */
export function pickPeople(messages: Surveyed, others: readonly Surveyed[], sides: PickedSides): PeopleParts {
  const beside = others.filter(({ source }) => source !== messages.source);
  const talkColumn = talkKeys(messages, sides);
  const senderColumn = sides.sender?.column ?? null;
  const people = whoIs(senderColumn ?? talkColumn, beside) ?? whoIs(talkColumn, beside);
  const talk = whatItIs(talkColumn, beside, people, sides);
  return {
    ...(people && {
      people: {
        table: people.to.name,
        key: people.key.column.name,
        address: columnNames(people.who.addresses),
        name: columnNames(people.who.names),
      },
    }),
    ...(talk && { talk: talk.mapped }),
    ...(talkColumn && membersOf(talkColumn, beside, people, talk, sides)),
    sender: senderOf(sides, people === null ? besideSender(messages, sides) : {}),
    joins: [],
  };
}

/** What conversations are told apart by, as a column: of sender and recipient, with whom each row is. */
function talkKeys(messages: Surveyed, sides: PickedSides): Column | null {
  if (sides.talk) return sides.talk.column;
  const values = sides.talks;
  const own = columnOf(messages.source, messages.sample, messages.profiles[0].column.at);
  return { ...own, name: "", steps: [], values };
}

interface Who extends Join {
  readonly who: PeopleTable;
}

function whoIs(column: Column | null, beside: readonly Surveyed[]): Who | null {
  if (!column) return null;
  const joins = joinsOf(column, beside).flatMap((join): Who[] => {
    const who = peopleTable(join.to);
    const tells = who && (who.names.length > 0 || who.addresses.some((one) => one.column.at !== join.key.column.at));
    return tells && join.score > 0.3 ? [{ ...join, who }] : [];
  });
  if (joins.length === 0) joins.push(...besideNames(column, beside));
  return joins.sort((a, b) => worthOf(b) - worthOf(a))[0] ?? null;
}

/** A table with names tells more than one without, and one with addresses, best those that anybody is reached by, is of people rather than of conversations. */
function worthOf({ score, who: { names, addresses } }: Who): number {
  const reached = addresses.length === 0 ? 0 : Math.max(...addresses.map(({ reachable }) => reachable)) > 0.6 ? 0.2 : 0.1;
  return score + (names.length > 0 ? 0.3 : 0) + reached;
}

/** Tables that tell names beside what the column says, though not once each: a row for each conversation that somebody is in. */
function besideNames(column: Column, beside: readonly Surveyed[]): Who[] {
  const keys = new Set(column.values.flatMap((value) => keyOf(value) ?? []));
  if ([...keys].every((key) => /^\d{1,9}$/.test(key))) return [];
  return beside.flatMap((to) => {
    const who = peopleTable(to);
    if (!who || who.names.length === 0 || to.source.tables.length > 1) return [];
    return to.profiles.flatMap((key): Who[] => {
      if (key.column.steps.length > 0 || key.clock || who.names.includes(key) || key.texts < 0.9) return [];
      const index = to.by(key.column.at);
      const share = [...keys].filter((one) => index.has(one)).length / Math.max(1, keys.size);
      return share >= 0.5 ? [{ to, key, share, score: share * 0.8, who }] : [];
    });
  });
}

interface Talk {
  readonly join: Join;
  readonly mapped: NonNullable<Mapping["talk"]>;
}

/** The table that tells what conversations are called. It may be that of the people. */
function whatItIs(column: Column | null, beside: readonly Surveyed[], people: Who | null, sides: PickedSides): Talk | null {
  if (!column) return null;
  const candidates = joinsOf(column, beside).filter(({ share, score }) => share >= 0.85 && score > 0.3);
  const partial = candidates.length === 0 ? partialJoins(column, beside) : [];
  const joins = [...candidates, ...partial].sort((a, b) => tellsOf(b, people) - tellsOf(a, people));
  const [join] = joins;
  if (!join) return null;
  const title = titleIn(join.to);
  const group = groupIn(join, sides);
  return {
    join,
    mapped: { table: join.to.name, key: [join.key.column.name], ...(title && { title: title.column.name }), ...(group && { group }) },
  };
}

const tellsOf = ({ to, score }: Join, people: Who | null): number =>
  score + (titleIn(to) ? 0.2 : 0) - (people && people.to === to ? 0.15 : 0);

/** Only groups have a row of their own where one with a person is named by that person. */
function partialJoins(column: Column, beside: readonly Surveyed[]): Join[] {
  const keys = new Set(column.values.flatMap((value) => keyOf(value) ?? []));
  return beside.flatMap((to) =>
    to.keys.flatMap((key): Join[] => {
      if (key.texts < 0.9) return [];
      const index = to.by(key.column.at);
      const share = [...index.keys()].filter((one) => keys.has(one)).length / Math.max(1, index.size);
      const people = peopleTable(to);
      return share >= 0.5 && index.size >= 2 && !(people && people.names.length > 0 && titleIn(to) === null)
        ? [{ to, key, share, score: share * 0.8 }]
        : [];
    }),
  );
}

/** A text for people to read: not a key, not a time, not packed. */
const titleIn = (table: Surveyed): Profile | null =>
  table.profiles
    .filter(
      ({ column, texts, prose, clock, mimes, files, meanLength, filled }) =>
        column.steps.length === 0 && texts > 0.9 && prose > 0.4 && !clock && mimes === 0 && files < 0.5 && meanLength < 80 && filled >= 1,
    )
    .sort((a, b) => titleWorth(b) - titleWorth(a))[0] ?? null;

/** A title is short: what is longer is likelier the last thing that was said. */
const LONG_TITLE = 24;
const titleWorth = ({ prose, filled, meanLength, column: { name } }: Profile): number =>
  prose * filled * (meanLength > LONG_TITLE ? 0.4 : 1) * (hints(name, "title") ? 1.2 : hints(name, "text") ? 0.8 : 1);

/** A column of few values that goes with whether several people write in a conversation. */
function groupIn(join: Join, sides: PickedSides): NonNullable<Mapping["talk"]>["group"] | null {
  const writers = new Map<string, Set<string>>();
  for (const [index, talk] of sides.talks.entries()) {
    const sender = sides.senders[index];
    const key = talk?.startsWith("[") ? ((JSON.parse(talk) as string[])[0] ?? talk) : talk;
    if (key !== null && sender !== null) writers.set(key, (writers.get(key) ?? new Set()).add(sender));
  }
  let best: { column: string; values: (string | number | null)[]; score: number } | null = null;
  const title = titleIn(join.to);
  for (const profile of join.to.profiles) {
    if (profile.column.steps.length > 0 || profile.distinct < 2 || profile.distinct > 4 || profile.clock || profile === title) continue;
    if (!isCategory(profile) && profile.filled < profile.known * 0.9) continue;
    const by = new Map<string, { rows: number; many: number; titled: number; value: string | number | null }>();
    for (const [index, value] of profile.column.values.entries()) {
      const name = keyOf(value) ?? "";
      const key = keyOf(join.key.column.values[index]);
      const one = by.get(name) ?? {
        rows: 0,
        many: 0,
        titled: 0,
        value: typeof value === "string" || typeof value === "number" ? value : null,
      };
      one.rows++;
      if (key !== null && (writers.get(key)?.size ?? 0) > 1) one.many++;
      if (title && keyOf(title.column.values[index]) !== null) one.titled++;
      by.set(name, one);
    }
    const groups = [...by.values()].filter(({ rows, many }) => many > rows * 0.4);
    const pairs = [...by.values()].filter(({ rows, many }) => many <= rows * 0.4);
    if (groups.length === 0 || pairs.length === 0) continue;
    const right = groups.reduce((sum, { many }) => sum + many, 0) + pairs.reduce((sum, { rows, many }) => sum + rows - many, 0);
    const score =
      right /
      Math.max(
        1,
        [...by.values()].reduce((sum, { rows }) => sum + rows, 0),
      );
    if (score > 0.8 && (!best || score > best.score))
      best = { column: profile.column.name, values: groups.map(({ value }) => value), score };
  }
  return best && { column: best.column, values: best.values };
}

/** A table with a row for each who is in a conversation. */
function membersOf(
  talkColumn: Column,
  beside: readonly Surveyed[],
  people: Who | null,
  talk: Talk | null,
  sides: PickedSides,
): Pick<Mapping, "members"> {
  const talks = new Set(talkColumn.values.flatMap((value) => keyOf(value) ?? []));
  if (talk) for (const key of talk.join.to.by(talk.join.key.column.at).keys()) talks.add(key);
  let best: { mapped: NonNullable<Mapping["members"]>; score: number } | null = null;
  for (const table of beside) {
    if (talk && table === talk.join.to) continue;
    for (const key of table.profiles) {
      if (key.column.steps.length > 0 || key.distinct < 1 || key.clock || key.filled < key.known * 0.9) continue;
      if (key.column.at === ROWID) continue;
      const own = key.column.values.flatMap((value) => keyOf(value) ?? []);
      const inside = own.filter((one) => talks.has(one)).length / Math.max(1, own.length);
      // A column of a few small numbers is inside of anything.
      const reach = new Set(own.filter((one) => talks.has(one))).size / Math.max(1, talks.size);
      const told = agreement(table, key, sides);
      const agreed = told ?? 0;
      if (inside < 0.9 || reach < 0.1 || (reach < 0.2 && agreed < 0.5)) continue;
      // Numbers of people are numbers of conversations too, by chance: who writes there would be named.
      if (told !== null && told < 0.3 && own.every((one) => /^\d{1,9}$/.test(one))) continue;
      const person = people && table !== people.to ? personIn(table, key, people) : null;
      const names = namesIn(table).filter((one) => one !== key);
      const addresses = addressesIn(table).filter((one) => one !== key && !names.includes(one));
      if (!person && names.length === 0 && addresses.length === 0) continue;
      if (table.profiles.length > 14) continue;
      const score = inside + reach + agreed * 1.5 + (person ? 0.5 : 0) + (names.length > 0 ? 0.3 : 0) - table.profiles.length * 0.02;
      if (best && best.score >= score) continue;
      best = {
        score,
        mapped: {
          table: table.name,
          key: key.column.name,
          ...(person && { person: person.column.name }),
          address: columnNames(addresses.filter((one) => one !== person)),
          name: columnNames(names),
        },
      };
    }
  }
  return best ? { members: best.mapped } : {};
}

/** Fewer messages of known senders say nothing of whom a table names. */
const LEAST_SENT = 8;

/** Of what came in to conversations that a column names, how much was written by whom a row of that conversation names. Null: too little is known. */
function agreement(table: Surveyed, key: Profile, sides: PickedSides): number | null {
  const index = table.by(key.column.at);
  let named = 0;
  let all = 0;
  for (const [at, talk] of sides.talks.entries()) {
    const sender = sides.senders[at];
    const name = talk?.startsWith("[") ? ((JSON.parse(talk) as string[])[0] ?? talk) : talk;
    if (name === null || sender === null) continue;
    const rows = index.get(name);
    if (!rows) continue;
    all++;
    if (rows.some((row) => row.values.some((value, column) => column !== key.column.at && keyOf(value) === sender))) named++;
  }
  return all < LEAST_SENT ? null : named / all;
}

/** The column of a table of members that names people. */
function personIn(table: Surveyed, key: Profile, people: Who): Profile | null {
  const index = people.to.by(people.key.column.at);
  return (
    table.profiles
      .filter(
        (one) =>
          one !== key &&
          one.column.at !== ROWID &&
          one.column.steps.length === 0 &&
          !one.clock &&
          one.filled >= one.known * 0.9 &&
          one.distinct > 1,
      )
      .map((one) => {
        const keys = one.column.values.flatMap((value) => keyOf(value) ?? []);
        return {
          one,
          share: keys.filter((value) => index.has(value)).length / Math.max(1, keys.length),
          reach: new Set(keys).size / Math.max(1, index.size),
        };
      })
      .filter(({ share, reach }) => share >= 0.85 && reach > 0.15)
      .sort((a, b) => b.share + b.reach - a.share - a.reach)[0]?.one ?? null
  );
}

/** What the messages themselves say of who wrote them. */
function senderOf({ sender }: PickedSides, beside: Beside): Mapping["sender"] {
  if (!sender) return { address: [], name: [] };
  const value: MappedValue = valueAs("m", sender.column);
  const isName = sender.personNames > 0.6 && sender.addresses < 0.6;
  const own = isName || sender.texts < 0.9 ? [] : [value];
  return {
    key: value,
    address: [...(beside.address ? [valueAs("m", beside.address.column)] : []), ...own],
    name: isName ? [value] : beside.name ? [valueAs("m", beside.name.column)] : [],
  };
}

interface Beside {
  readonly name?: Profile;
  readonly address?: Profile;
}

/** Where no table tells who people are, a name and an address may stand beside the sender in each message: the same for the same sender. */
function besideSender(messages: Surveyed, sides: PickedSides): Beside {
  const { sender, talk } = sides;
  if (!sender) return {};
  const keys = sender.column.values.map(keyOf);
  const goesWith = messages.profiles.filter((one) => {
    if (one === sender || one === talk || one.clock || one.distinct < 2) return false;
    const told = new Map<string, Set<string>>();
    for (const [index, key] of keys.entries()) {
      const value = keyOf(one.column.values[index]);
      if (key !== null && value !== null) told.set(key, (told.get(key) ?? new Set()).add(value));
    }
    return told.size >= 2 && [...told.values()].every(({ size }) => size === 1);
  });
  const name = goesWith.find(({ personNames }) => personNames > 0.6);
  const address = goesWith.find((one) => one !== name && one.reachable > 0.8);
  return { ...(name && { name }), ...(address && { address }) };
}
