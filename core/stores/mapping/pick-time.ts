import { keyOf, numberOf } from "../gathered.ts";
import type { Said } from "./by-hand.ts";
import type { MappedTime } from "./mapping.ts";
import type { Profile } from "./profile.ts";
import { rising } from "./statistics.ts";
import { type Surveyed, valueAs } from "./survey.ts";
import { momentOf } from "./times.ts";
import { hints } from "./words.ts";

export interface PickedTime {
  readonly time: MappedTime;
  readonly profiles: readonly Profile[];
  /** Milliseconds since 1970 of each row of the sample; NaN: none. */
  readonly moments: readonly number[];
  readonly rising: number;
  readonly why: string;
}

/** Which column tells when: it is in nearly every row, rises with the rows, and comes before other times of the row. */
export function pickTime(messages: Surveyed, said: Said): PickedTime | null {
  const all = candidates(messages, said);
  const scored = all.map((one, index) => ({ one, score: scoreOf(one, index) })).sort((a, b) => b.score - a.score);
  const [best] = scored;
  if (!best) return null;
  // Of times that are as good, the earlier one: what came later was read, delivered, changed.
  const near = scored.filter(({ score }) => score > best.score - 0.12).map(({ one }) => one);
  return near.reduce((first, other) => (isEarlier(other, first) ? other : first));
}

function scoreOf(picked: PickedTime, index: number): number {
  const [{ column, known, filled }] = picked.profiles;
  const name = picked.profiles.length > 1 ? "" : column.name;
  const hint = (hints(name, "sent") ? 0.06 : 0) - (hints(name, "later") ? 0.1 : 0);
  return filled / Math.max(1, known) + 0.5 * picked.rising + hint - index * 0.001 - (column.steps.length > 0 ? 0.05 : 0);
}

function isEarlier(a: PickedTime, b: PickedTime): boolean {
  let earlier = 0;
  let later = 0;
  for (const [index, moment] of a.moments.entries()) {
    if (moment < b.moments[index]) earlier++;
    if (moment > b.moments[index]) later++;
  }
  return earlier > later * 3 && earlier > 5;
}

function candidates(messages: Surveyed, said: Said): PickedTime[] {
  const found: PickedTime[] = [];
  const rows = messages.sample.length;
  const isSaid = said.isFixed("when");
  const enough = (profile: Profile) =>
    isSaid ||
    (profile.filled >= Math.max(3, profile.known * 0.85) &&
      profile.known >= rows * 0.5 &&
      profile.distinct >= Math.min(profile.filled * 0.3, 50));
  const isElse = ({ column }: Profile) => !["when", null].includes(said.roleOf(column));
  const days = messages.profiles.filter((profile) => (profile.isDay || isDayNumber(profile)) && profile.filled >= profile.known * 0.85);
  const ofDay = messages.profiles.filter(
    (profile) => profile.ofDay !== null && profile.filled >= profile.known * 0.85 && profile.distinct > 20,
  );
  for (const profile of messages.profiles) {
    if (!profile.clock || profile.isDay || !enough(profile) || !said.may(profile.column, "when")) continue;
    const { unit, epoch, text } = profile.clock;
    found.push(picked(messages, { from: valueAs("m", profile.column), unit, epoch, ...(text && { text }) }, [profile]));
  }
  for (const day of days)
    for (const clock of ofDay) {
      if (clock.column === day.column || isElse(day) || isElse(clock)) continue;
      if (isSaid && said.roleOf(day.column) === null && said.roleOf(clock.column) === null) continue;
      const plus: MappedTime["plus"] = {
        from: valueAs("m", clock.column),
        unit: clock.ofDay === "ms" ? "ms" : "s",
        ...(clock.ofDay === "clock" && { text: "clock" }),
      };
      const from = valueAs("m", day.column);
      const form = day.isDay ? { unit: "ms" as const, text: day.clock?.text ?? ("iso" as const) } : { unit: "day" as const };
      found.push(picked(messages, { from, epoch: 1970, ...form, plus }, [day, clock]));
    }
  // A day alone is better than nothing.
  if (found.length === 0)
    for (const day of days)
      if (day.isDay && said.may(day.column, "when"))
        found.push(picked(messages, { from: valueAs("m", day.column), unit: "ms", epoch: 1970, text: day.clock?.text ?? "iso" }, [day]));
  return found;
}

/** Days since 1970, as whole numbers: of plausible years, and each of several rows or more. */
const isDayNumber = ({ integers, least, most, distinct }: Profile): boolean =>
  integers === 1 && least > 12_400 && most < 24_500 && distinct > 1;

function picked(messages: Surveyed, time: MappedTime, profiles: readonly Profile[]): PickedTime {
  const moments = messages.sample.map(
    (_, index) => momentOf(time, profiles[0].column.values[index], profiles[1]?.column.values[index]) ?? Number.NaN,
  );
  const order = messages.sample
    .map(({ row, part }, index) => ({ part, id: numberOf(row.row.rowid ?? undefined) ?? index, index }))
    .sort((a, b) => (a.part === b.part ? a.id - b.id : (keyOf(a.part) ?? "") < (keyOf(b.part) ?? "") ? -1 : 1));
  const { unit, epoch, text } = time;
  const told = text ? "times written out" : `times in ${unit} since ${epoch}`;
  return {
    time,
    profiles,
    moments,
    rising: rising(order.map(({ index }) => moments[index])),
    why: profiles.length > 1 ? `a day and a time of day, together ${told === "times written out" ? "times" : told}` : told,
  };
}
