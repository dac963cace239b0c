import type { CallValues, ContactChange, ContactValues, FoundRecord } from "../../finds/record.ts";

type Entry = Pick<FoundRecord, "kind" | "state"> & { readonly values?: FoundRecord["values"] };

/** A moment at which something stood on a card, and what tells it. */
interface Use {
  readonly at: number;
  readonly by: NonNullable<ContactChange["by"]>;
}

/**
 * What a contact said before, dated more closely by what carries a clock: a call keeps the name that the address book had for its number then
 * (CallLog.Calls.CACHED_NAME), and another address book of the ticket says when it had the same card. `others`: entries of the card's
 * addresses, those of before too. `keyOf`: what two ways to write one address have in common.
 */
export function pastOf(
  card: ContactValues,
  others: readonly Entry[],
  keyOf: (address: string | undefined) => string | null,
): readonly ContactChange[] {
  const history = card.history ?? [];
  const names = new Set([card.name, ...history.flatMap(({ field, was }) => (field === "name" ? [was] : []))]);
  const numbers = new Set([
    ...(card.phones ?? []).map(({ number }) => keyOf(number)),
    ...history.flatMap(({ field, was }) => (field === "number" ? [keyOf(was)] : [])),
  ]);
  return history.map((change) => {
    const last = lastUse(change, others, names, numbers, keyOf);
    const isLater = last && !(change.after && Date.parse(change.after) >= last.at);
    return isLater ? { ...change, after: new Date(last.at).toISOString(), by: last.by } : change;
  });
}

function lastUse(
  { field, was, before }: ContactChange,
  others: readonly Entry[],
  names: ReadonlySet<string | undefined>,
  numbers: ReadonlySet<string | null>,
  keyOf: (address: string | undefined) => string | null,
): Use | null {
  const key = keyOf(was);
  const uses = others.flatMap(({ kind, values }): Use[] => {
    if (kind === "call") {
      const { number, name, at } = values as CallValues;
      const isIt =
        field === "number" ? keyOf(number) === key && names.has(name) : field === "name" && name === was && numbers.has(keyOf(number));
      return isIt && name && at ? [{ at: Date.parse(at), by: "a call" }] : [];
    }
    if (kind !== "contact") return [];
    const { name, phones = [], emails = [], changedAt } = values as ContactValues;
    const has = { number: phones.some(({ number }) => keyOf(number) === key), mail: emails.some(({ address }) => keyOf(address) === key) };
    const isIt =
      field === "name" ? name === was && phones.some(({ number }) => numbers.has(keyOf(number))) : names.has(name) && hasField(has, field);
    return isIt && changedAt ? [{ at: Date.parse(changedAt), by: "another address book" }] : [];
  });
  // What shows it later than it can have been so was kept from before, or is another's.
  const told = before === undefined ? uses : uses.filter((use) => use.at < Date.parse(before));
  return told.reduce<Use | null>((last, use) => (last && last.at >= use.at ? last : use), null);
}

const hasField = (has: Readonly<Record<"number" | "mail", boolean>>, field: ContactChange["field"]): boolean =>
  (field === "number" || field === "mail") && has[field];

/** A contact as it was at a moment. */
export interface AsItWas {
  readonly values: ContactValues;
  /** Was it in the address book then? Nothing tells when a contact was made: *yes* says that it was not erased by then. */
  readonly there: "yes" | "no" | "maybe";
  /** Changes of which nothing tells on which side of the moment they lie: they are left as they came out. */
  readonly open: readonly ContactChange[];
}

/** @param moment milliseconds since 1970 */
export function asItWas(values: ContactValues, state: FoundRecord["state"], moment: number): AsItWas {
  const isGone = state === "erased" || state === "binned" || state === "unclear";
  const there = !isGone ? "yes" : values.erasedAt === undefined ? "maybe" : Date.parse(values.erasedAt) > moment ? "yes" : "no";
  const isUnchanged = values.changedAt !== undefined && Date.parse(values.changedAt) <= moment;
  const open: ContactChange[] = [];
  let was = values;
  for (const change of isUnchanged ? [] : (values.history ?? [])) {
    if (change.after !== undefined && Date.parse(change.after) >= moment) was = undone(was, change);
    else if (change.before === undefined || Date.parse(change.before) > moment) open.push(change);
  }
  return { values: was, there, open };
}

/** A card before a change. */
function undone(card: ContactValues, { field, was, became }: ContactChange): ContactValues {
  const swapped = <T extends object>(list: readonly T[] = [], of: (one: T) => string, make: (text: string, one?: T) => T): T[] => {
    const at = became === undefined ? -1 : list.findIndex((one) => of(one) === became);
    return at < 0 ? [...list, make(was)] : list.map((one, index) => (index === at ? make(was, one) : one));
  };
  switch (field) {
    case "name":
      return { ...card, name: was };
    case "number":
      return {
        ...card,
        phones: swapped(
          card.phones,
          (one) => one.number,
          (number, one) => ({ ...one, number }),
        ),
      };
    case "mail":
      return {
        ...card,
        emails: swapped(
          card.emails,
          (one) => one.address,
          (address, one) => ({ ...one, address }),
        ),
      };
    case "page":
      return { ...card, websites: [...(card.websites ?? []).filter((site) => site !== became), was] };
    case "works at":
      return { ...card, organization: was };
    case "called":
      return { ...card, nickname: was };
    case "birthday":
      return { ...card, birthday: was };
    case "note":
      return { ...card, note: was };
    // An address is one line there, and parts here.
    case "address":
      return { ...card, addresses: [{ street: was }] };
  }
}
