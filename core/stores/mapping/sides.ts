import type { Value } from "../../sqlite/format/record.ts";
import { keyOf } from "../gathered.ts";
import type { MappedValue, Mapping } from "./mapping.ts";
import type { Profile } from "./profile.ts";
import type { Flag, SenderCandidate, TalkCandidate } from "./side-candidates.ts";
import { valueAs } from "./survey.ts";

export type Side = "in" | "out" | null;

/** Who wrote to whom, in which conversation. */
export interface PickedSides {
  readonly direction: Mapping["direction"];
  readonly own: readonly MappedValue[];
  readonly conversation: Mapping["conversation"];
  /** Column that conversations are told apart by; null: by sender and recipient, or by the table. */
  readonly talk: Profile | null;
  readonly more: readonly Profile[];
  readonly sender: Profile | null;
  readonly flag: Profile | null;
  /** Of each row of the sample: what it says of these. */
  readonly sides: readonly Side[];
  readonly talks: readonly (string | null)[];
  readonly senders: readonly (string | null)[];
  readonly score: number;
  readonly because: Mapping["because"];
}

interface Told {
  readonly direction: Mapping["direction"];
  readonly own: readonly MappedValue[];
  readonly why: string;
  readonly share: number;
  readonly binds: number;
}

export function picked(
  talk: TalkCandidate,
  sender: SenderCandidate | null,
  flag: Flag | null,
  sides: readonly Side[],
  score: number,
  told: Told,
): PickedSides | null {
  return {
    direction: told.direction,
    own: told.own,
    conversation: { by: "columns", from: [talk.profile ? valueAs("m", talk.profile.column) : { part: "part" }] },
    talk: talk.profile,
    more: [],
    sender: sender?.profile ?? null,
    flag: flag?.profile ?? null,
    sides,
    talks: talk.keys,
    senders: sides.map((side, index) => (side === "in" ? (sender?.keys[index] ?? null) : null)),
    score,
    because: [
      { part: "direction", why: told.why, share: told.share },
      { part: "conversation", why: talk.why, share: talk.quality },
      ...(sender ? [{ part: "sender", why: "in a conversation the same few write", share: Math.min(1, told.binds) }] : []),
    ],
  };
}

/** What is stored where a key stands: keys are texts, values may be numbers. */
export function storedIn(flag: Flag, keys: ReadonlySet<string>): (string | number | null)[] {
  const stored = new Map<string, string | number | null>();
  for (const [index, value] of flag.profile.column.values.entries()) {
    const key = flag.keys[index] ?? "";
    if (keys.has(key) && !stored.has(key)) stored.set(key, simple(value));
  }
  return [...stored.values()];
}

export const simple = (value: Value | undefined): string | number | null =>
  value === undefined || value === null
    ? null
    : typeof value === "bigint"
      ? Number(value)
      : value instanceof Uint8Array
        ? keyOf(value)
        : value;
