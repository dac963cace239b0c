import { keyOf } from "../gathered.ts";
import { columnKey, keyOfValue, type Role, type Scalar } from "./by-hand.ts";
import type { MappedValue, Mapping } from "./mapping.ts";
import { isCategory, type Profile } from "./profile.ts";
import type { Surveyed } from "./survey.ts";

/** A column of the messages as a person judges it: what it says, what it is taken for, and why. */
export interface ColumnView {
  readonly key: string;
  /** Its name; of what is packed in one also where. */
  readonly name: string;
  /** One of its values, as a text. */
  readonly example: string;
  readonly role: Role;
  readonly because: string;
  /** 0 to 1: how well what speaks for its part holds. */
  readonly share: number;
  /** What it says, where that is few things: which side each is, where it tells the direction. */
  readonly values: readonly { readonly value: Scalar; readonly rows: number; readonly side: "in" | "out" | null }[];
}

/** More different values than these are no sides. */
const MOST_VALUES = 12;
const MOST_LETTERS = 60;

/** The columns of the messages, and what is packed in them. */
export function columnsOf(messages: Surveyed, mapping: Mapping | null): ColumnView[] {
  const roles = mapping ? rolesIn(mapping) : new Map<string, Role>();
  const uses = mapping ? usesIn(mapping) : new Map<string, string>();
  return messages.profiles.map((profile): ColumnView => {
    const key = columnKey(profile.column);
    const role = roles.get(key) ?? "none";
    const reason = PARTS[role].map((wanted) => mapping?.because.find(({ part }) => part === wanted)).find((one) => one !== undefined);
    return {
      key,
      name: nameOf(profile),
      example: exampleOf(profile),
      role,
      because: reason?.why ?? uses.get(key) ?? looksLike(profile),
      share: reason?.share ?? 1,
      values: valuesOf(profile, mapping),
    };
  });
}

/** Which of a proposal's reasons speak of a role, the likeliest first: where sender and recipient tell the side, that is why one is the sender. */
const PARTS: Readonly<Record<Role, readonly string[]>> = {
  when: ["time"],
  text: ["text"],
  conversation: ["conversation"],
  sender: ["sender", "direction"],
  direction: ["direction"],
  none: [],
};

/** What else columns tell, of those that have no part of their own. */
function usesIn({ system, marks, attachments }: Mapping): ReadonlyMap<string, string> {
  const uses = new Map<string, string>();
  const put = (why: string, ...values: (MappedValue | undefined)[]) => {
    for (const value of values) {
      const key = value && keyOfValue(value);
      if (key && !uses.has(key)) uses.set(key, why);
    }
  };
  for (const cond of system) put("tells what nobody wrote: who came, who left", ...cond.map(({ from }) => from));
  for (const { when, means } of marks) put(`tells which are ${means}`, ...when.map(({ from }) => from));
  for (const { path, name, type, content } of attachments) {
    put("where an attachment lies", path);
    put("what an attachment is called", name);
    put("what kind an attachment is", type);
    put("an attachment itself", content);
  }
  return uses;
}

/** What each column of the messages is to a mapping. One that is several things is told by the first of them. */
function rolesIn(mapping: Mapping): ReadonlyMap<string, Role> {
  const roles = new Map<string, Role>();
  const put = (role: Role, ...values: (MappedValue | undefined)[]) => {
    for (const value of values) {
      const key = value && keyOfValue(value);
      if (key && !roles.has(key)) roles.set(key, role);
    }
  };
  const { at, text, conversation, direction, sender } = mapping;
  put("when", at.from, at.plus?.from);
  put("text", ...text);
  if (conversation.by === "columns") put("conversation", ...conversation.from);
  else put("sender", conversation.sender);
  if (conversation.by === "pair") put("conversation", conversation.recipient);
  put("sender", sender.key, ...sender.address, ...sender.name);
  if (direction.by === "value") put("direction", withoutBit(direction.from));
  return roles;
}

/** The column that a bit is of: on the screen it is one column. */
const withoutBit = (value: MappedValue): MappedValue =>
  "col" in value && value.as ? { col: value.col, as: value.as.filter((step) => typeof step === "string" || !("bit" in step)) } : value;

const nameOf = ({ column: { name, steps } }: Profile): string => {
  const where = steps.flatMap((step) => {
    if (typeof step === "string") return step === "longest" ? [] : [step];
    if ("json" in step) return [step.json.slice(1).replaceAll("/", " › ")];
    if ("field" in step) return [`field ${step.field.join(".")}`];
    return "bit" in step ? [`bit ${step.bit}`] : [];
  });
  return [name, ...where].join(" › ");
};

/** The first value that says something. */
function exampleOf({ column }: Profile): string {
  const value = column.values.find((one) => one !== undefined && one !== null && one !== "");
  if (value === undefined || value === null) return "";
  if (value instanceof Uint8Array) return `${value.length} bytes`;
  const text = String(value);
  return text.length > MOST_LETTERS ? `${text.slice(0, MOST_LETTERS)}…` : text;
}

/** What a column that is not used is like, in a few words. */
function looksLike(profile: Profile): string {
  const { filled, distinct, clock, integers, numbers, files, mimes, urls, blobs, media, addresses, personNames } = profile;
  if (filled === 0) return "says nothing";
  if (clock) return clock.text ? "a time as well, written out" : `a time as well, in ${clock.unit} since ${clock.epoch}`;
  if (media > 0.5) return "pictures, sounds or films";
  if (files > 0.5) return "names of files";
  if (mimes > 0.5) return "kinds of files";
  if (urls > 0.5) return "addresses of pages";
  if (blobs > 0.5) return "bytes";
  if (distinct === 1) return "always the same";
  if (distinct === filled && numbers > 0.9 && integers === numbers) return "a number of its own for each";
  if (distinct >= filled * 0.98) return "another one in each row";
  if (addresses > 0.6) return "addresses or handles";
  if (personNames > 0.6) return "names";
  return `${distinct.toLocaleString("en")} different values`;
}

function valuesOf(profile: Profile, mapping: Mapping | null): ColumnView["values"] {
  if (profile.distinct > MOST_VALUES || profile.distinct < 1 || !(isCategory(profile) || profile.distinct <= 4)) return [];
  const direction = mapping?.direction.by === "value" ? mapping.direction : null;
  const tells = direction !== null && keyOfValue(direction.from) === columnKey(profile.column);
  const sides = new Map<string, "in" | "out">();
  if (tells) {
    for (const value of direction.in) sides.set(value === null ? "" : String(value), "in");
    for (const value of direction.out) sides.set(value === null ? "" : String(value), "out");
  }
  const counts = new Map<string, { value: Scalar; rows: number }>();
  for (const value of profile.column.values) {
    if (value === undefined) continue;
    const key = keyOf(value) ?? "";
    const plain = typeof value === "number" || typeof value === "string" ? value : typeof value === "bigint" ? Number(value) : null;
    const one = counts.get(key) ?? { value: key === "" ? null : plain, rows: 0 };
    one.rows++;
    counts.set(key, one);
  }
  return [...counts].slice(0, MOST_VALUES + 1).map(([key, one]) => ({ ...one, side: sides.get(key) ?? null }));
}
