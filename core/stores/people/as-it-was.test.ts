import { expect, test } from "vitest";
import type { ContactChange, ContactValues } from "../../finds/record.ts";
import { addressKey } from "../numbers.ts";
import { asItWas, pastOf } from "./as-it-was.ts";

const day = (of: number): number => Date.UTC(2026, 3, of);
const iso = (of: number): string => new Date(day(of)).toISOString();
const keyOf = (address: string | undefined) => addressKey(address, "RO");

const NUMBER: ContactChange = { field: "number", was: "+40 700 000 001", became: "+40 700 000 011", after: iso(1), before: iso(9) };
const CARD: ContactValues = {
  name: "Ilse Brandt",
  phones: [{ number: "+40 700 000 011", type: "mobile" }],
  changedAt: iso(14),
  history: [
    { field: "mail", was: "ilse@wagon.example", before: iso(14) },
    { field: "name", was: "Ilse Marwitz", became: "Ilse Brandt", after: iso(5), before: iso(9) },
    NUMBER,
  ],
};
const call = (number: string, name: string, of: number) =>
  ({ kind: "call", state: "present", values: { number, name, at: iso(of) } }) as const;

test("a call keeps the name that its number had: what it shows dates a change, where that agrees with the rest", () => {
  const calls = [call("0700 000 001", "Ilse Marwitz", 4), call("0700 000 001", "Ilse Marwitz", 3), call("0700 000 011", "Ilse Marwitz", 7)];
  const [, name, number] = pastOf(CARD, calls, keyOf);
  expect(number).toEqual({ ...NUMBER, after: iso(4), by: "a call" });
  expect(name).toMatchObject({ was: "Ilse Marwitz", after: iso(7), before: iso(9), by: "a call" });
  // Who is called by another name, or later than the change can have been, says nothing.
  expect(pastOf(CARD, [call("0700 000 001", "Odile", 4), call("0700 000 001", "Ilse Marwitz", 12)], keyOf)).toEqual(CARD.history);
});

test("another address book of the ticket that has the same card says when it had it", () => {
  const other = {
    name: "Ilse Marwitz",
    phones: [{ number: "0700 000 001" }],
    emails: [{ address: "Ilse@Wagon.example" }],
    changedAt: iso(6),
  };
  const [mail, name, number] = pastOf(CARD, [{ kind: "contact", state: "present", values: other }], keyOf);
  expect(mail).toEqual({ field: "mail", was: "ilse@wagon.example", after: iso(6), before: iso(14), by: "another address book" });
  expect(number).toMatchObject({ after: iso(6), by: "another address book" });
  expect(name).toMatchObject({ after: iso(6) });
});

test("as it was: what came later is undone, what came before stays, of what nothing dates it is said", () => {
  const first = asItWas(CARD, "present", day(1));
  expect(first).toMatchObject({ there: "yes", values: { name: "Ilse Marwitz", phones: [{ number: "+40 700 000 001", type: "mobile" }] } });
  expect(first.open.map(({ field }) => field)).toEqual(["mail"]);
  const between = asItWas(CARD, "present", day(7));
  expect(between.values).toMatchObject({ name: "Ilse Brandt", phones: [{ number: "+40 700 000 011" }] });
  expect(between.open.map(({ field }) => field)).toEqual(["mail", "name", "number"]);
  const last = asItWas(CARD, "present", day(15));
  expect(last).toEqual({ there: "yes", values: CARD, open: [] });
});

test("an erased contact was there until the address book noted that it is gone", () => {
  const erased = { name: "Odile", erasedAt: iso(20) };
  expect(asItWas(erased, "erased", day(19)).there).toBe("yes");
  expect(asItWas(erased, "binned", day(20)).there).toBe("no");
  expect(asItWas({ name: "Odile" }, "erased", day(19)).there).toBe("maybe");
});

test("a part that was taken out comes back, and one that was renamed keeps its kind", () => {
  const card: ContactValues = {
    emails: [{ address: "new@wagon.example", type: "work" }],
    organization: "Night Tram",
    history: [
      { field: "mail", was: "old@wagon.example", became: "new@wagon.example", after: iso(3) },
      { field: "number", was: "+40 700 000 005", after: iso(3) },
      { field: "works at", was: "Wagon Theatre", became: "Night Tram", after: iso(2) },
      { field: "note", was: "owes a ladder", after: iso(2) },
    ],
  };
  expect(asItWas(card, "present", day(2)).values).toMatchObject({
    emails: [{ address: "old@wagon.example", type: "work" }],
    phones: [{ number: "+40 700 000 005" }],
    organization: "Wagon Theatre",
    note: "owes a ladder",
  });
});
