import { keyOf } from "../gathered.ts";
import { isPersonName } from "./looks.ts";
import type { Cond, Mapping } from "./mapping.ts";
import type { PickedText } from "./pick-text.ts";
import type { PickedTime } from "./pick-time.ts";
import { isCategory, type Profile } from "./profile.ts";
import type { PickedSides } from "./sides.ts";
import { type Surveyed, valueAs } from "./survey.ts";
import { momentOf } from "./times.ts";
import { hints } from "./words.ts";

/** Rows of one kind that are fewer say too little of the kind. */
const FEW = 3;

interface Kind {
  readonly profile: Profile;
  readonly value: string | number | null;
  readonly rows: readonly number[];
}

/** All kinds of rows that columns of few values tell apart. */
export function kindsOf(messages: Surveyed, sides: PickedSides): Kind[] {
  const columns = messages.profiles.filter(
    (profile) => isCategory(profile) && profile !== sides.talk && !sides.more.includes(profile) && profile !== sides.sender,
  );
  return columns.flatMap((profile) => {
    const rows = new Map<string, number[]>();
    for (const [index, value] of profile.column.values.entries()) {
      const key = keyOf(value) ?? "";
      const some = rows.get(key);
      if (some) some.push(index);
      else rows.set(key, [index]);
    }
    return Array.from(rows, ([, some]): Kind => {
      const value = profile.column.values[some[0]];
      return {
        profile,
        value: typeof value === "string" || typeof value === "number" ? value : typeof value === "bigint" ? Number(value) : null,
        rows: some,
      };
    });
  });
}

/** Which rows nobody wrote: a kind of few rows without a sender, whose texts end alike and begin with a name. */
export function pickSystem(messages: Surveyed, sides: PickedSides, text: PickedText): Mapping["system"] {
  const system: Cond[] = [];
  const rows = messages.sample.length;
  const senders = sides.sender?.column.values.map(keyOf) ?? null;
  // Where the owner is named like everybody, a row that names nobody was written by nobody.
  if ((sides.direction.by === "sender" || sides.direction.by === "pair") && sides.sender) {
    const empty = senders?.filter((key) => key === null).length ?? 0;
    if (empty < rows * 0.3) system.push([{ from: valueAs("m", sides.sender.column), empty: true }]);
    return system;
  }
  for (const kind of kindsOf(messages, sides)) {
    if (kind.rows.length < FEW || kind.rows.length > rows * 0.15) continue;
    if (senders && kind.rows.some((index) => senders[index] !== null)) continue;
    if (!readsAsNotice(kind.rows.map((index) => text.texts[index]))) continue;
    system.push([{ from: valueAs("m", kind.profile.column), in: [kind.value] }]);
  }
  return system.slice(0, 20);
}

/** "… joined", "… changed the title": of few endings, and each begins with a name. */
function readsAsNotice(texts: readonly (string | null)[]): boolean {
  const told = texts.filter((text): text is string => text !== null);
  if (told.length < texts.length * 0.8 || told.length < FEW) return false;
  const words = told.map((text) => text.trim().split(/\s+/));
  const named = words.filter((some) => isPersonName(some.slice(0, 2).join(" ")) || isPersonName(some[0])).length / told.length;
  const rest = new Set(words.map((some) => some.slice(2).join(" ")));
  const endings = new Set(words.map((some) => some.at(-1)));
  const few = (set: ReadonlySet<unknown>) => set.size <= Math.max(3, told.length * 0.4);
  return named >= 0.7 && few(endings) && (few(rest) || endings.size <= 4) && told.every((text) => text.length < 200);
}

/** Flags that say that a message was binned or edited, by their names; and a kind of few plain rows that went nowhere: drafts. */
export function pickMarks(messages: Surveyed, sides: PickedSides, system: Mapping["system"], time: PickedTime): Mapping["marks"] {
  const marks: Mapping["marks"] = [];
  const rows = messages.sample.length;
  const spoken = new Set(system.flatMap((cond) => cond.map(({ from }) => JSON.stringify(from))));
  for (const profile of messages.profiles) {
    const { column } = profile;
    if (
      column.steps.some((step) => typeof step === "object" && "bit" in step) ||
      profile === sides.flag ||
      profile === sides.talk ||
      profile === sides.sender
    )
      continue;
    const set = column.values.filter(
      (value) => value !== null && value !== undefined && value !== 0 && value !== "" && value !== "0",
    ).length;
    if (set === 0 || set > rows * 0.25) continue;
    const from = valueAs("m", column);
    const pointer = column.steps.flatMap((step) => (typeof step === "object" && "json" in step ? [step.json] : [])).join(" ");
    const name = pointer || column.name;
    const whenSet: Cond = [{ from, not: [0, "0", ""], empty: false }];
    const isFlag = (profile.integers === 1 && profile.least >= 0) || profile.clock !== null;
    if (!isFlag) continue;
    if (hints(name, "deleted")) marks.push({ when: whenSet, means: "binned" });
    else if (hints(name, "edited")) marks.push({ when: whenSet, means: "edited" });
    else if (isLater(profile, time, rows)) marks.push({ when: whenSet, means: "edited" });
    else if (hints(name, "draft")) marks.push({ when: whenSet, means: "draft" });
  }
  for (const kind of kindsOf(messages, sides)) {
    if (
      spoken.has(JSON.stringify(valueAs("m", kind.profile.column))) &&
      system.some((cond) => cond.some((one) => one.in?.includes(kind.value)))
    )
      continue;
    const word = typeof kind.value === "string" && hints(kind.value, "draft");
    if (word || isDraftLike(kind, messages, sides))
      marks.push({ when: [{ from: valueAs("m", kind.profile.column), in: [kind.value] }], means: "draft" });
  }
  return marks;
}

/** A second time that few rows have, soon after the first: what was written was changed then. */
function isLater({ clock, column, filled }: Profile, time: PickedTime, rows: number): boolean {
  if (!clock || filled < 3 || filled > rows * 0.08) return false;
  return column.values.every((value, index) => {
    if (value === null || value === undefined || value === "") return true;
    const later = momentOf(clock, value, undefined);
    const after = later === undefined ? Number.NaN : later - time.moments[index];
    return after >= 0 && after < SOON;
  });
}
/** Days after which nobody corrects what they wrote, in milliseconds. */
const SOON = 8 * 86_400_000;

/** Few rows that went out, all of the commonest kinds and with nothing else said of them: they never left. */
function isDraftLike(kind: Kind, messages: Surveyed, sides: PickedSides): boolean {
  const rows = messages.sample.length;
  if (kind.profile !== sides.flag || kind.rows.length < FEW || kind.rows.length > rows * 0.012 || rows < 200) return false;
  if (!kind.rows.every((index) => sides.sides[index] === "out")) return false;
  return messages.profiles.every((profile) => {
    if (profile === sides.flag || profile === sides.talk || !isCategory(profile) || profile.column.steps.length > 0) return true;
    const common = commonest(profile);
    return kind.rows.every((index) => (keyOf(profile.column.values[index]) ?? "") === common);
  });
}

function commonest({ column }: Profile): string {
  const counts = new Map<string, number>();
  for (const value of column.values) counts.set(keyOf(value) ?? "", (counts.get(keyOf(value) ?? "") ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0] ?? "";
}
