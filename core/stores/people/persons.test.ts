import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { type HandJoin, Persons } from "./persons.ts";

/** Cards of an address book, and addresses that stand on none. */
function persons(cards: readonly (readonly [string | undefined, ...string[]])[], others: readonly string[] = []): Persons {
  const all = new Persons();
  for (const [name, ...addresses] of cards)
    all.putCard(
      name,
      addresses.map((address) => all.note(address)),
    );
  for (const address of others) all.note(address);
  return all;
}
const written = (all: Persons, address: string) =>
  all
    .of(address)
    ?.addresses.map((one) => one.written)
    .sort();

describe("who is whom", () => {
  test("a card joins its addresses; a number is one however it is written (ITU-T E.164 §6), with the way that says most", () => {
    const all = persons(
      [
        ["Ana Dobre", "07700 900231", "ana@example.org"],
        ["Bela", "+44 7700 900500"],
      ],
      ["+447700900231"],
    );
    expect(all.of("+44 (7700) 900231")).toEqual({
      key: "+447700900231",
      name: "Ana Dobre",
      addresses: [
        { key: "+447700900231", written: "+447700900231", kind: "number", joined: "card", names: ["Ana Dobre"] },
        { key: "ana@example.org", written: "ana@example.org", kind: "mail", joined: "card", names: ["Ana Dobre"] },
      ],
    });
    expect(written(all, "ANA@example.org")).toEqual(written(all, "+447700900231"));
    expect(all.of("+447700900999")).toBeNull();
  });

  test("the country is guessed from the address books, unless the ticket says it", () => {
    const all = persons(
      [
        ["Bela", "+44 7700 900500"],
        ["Ana", "07700 900231"],
      ],
      ["+40770090023", "+447700900231"],
    );
    expect(all.country).toBe("GB");
    expect(all.nameOf("+447700900231")).toBe("Ana");
    all.setCountry("DE");
    expect(all.nameOf("+447700900231")).toBeUndefined();
    expect(all.nameOf("+497700900231")).toBe("Ana");
    all.setCountry(null);
    expect(all.nameOf("+447700900231")).toBe("Ana");
  });

  test("by hand: joined, taken apart, taken back; the last word counts, and a name holds for what was joined to it", () => {
    const all = persons([["Ana", "+447700900231", "+441632960118"]], ["@ana.strings", "mask@example.org"]);
    const said: HandJoin[] = [{ a: "@ana.strings", b: "+447700900231", apart: false }];
    all.setHand(said);
    expect(written(all, "@ana.strings")).toEqual(["+441632960118", "+447700900231", "@ana.strings"]);
    expect(all.nameOf("@ana.strings")).toBe("Ana");
    expect(all.of("@ana.strings")?.addresses.map(({ joined }) => joined)).toEqual(["card", "hand", "hand"]);
    all.setHand([...said, { a: "+447700900231", b: "+441632960118", apart: true }]);
    expect(written(all, "@ana.strings")).toEqual(["+447700900231", "@ana.strings"]);
    expect(written(all, "+441632960118")).toEqual(["+441632960118"]);
    all.setHand([...said, { a: "+447700900231", b: "@ana.strings", apart: true }]);
    expect(written(all, "@ana.strings")).toEqual(["@ana.strings"]);
    all.setHand([]);
    expect(written(all, "+441632960118")).toEqual(["+441632960118", "+447700900231"]);
  });

  test("taken apart holds against two cards that share a number, and against a way over a third address", () => {
    const all = persons([
      ["Ana", "+447700900231", "+441632960118"],
      ["Bela", "+447700900500", "+441632960118"],
    ]);
    expect(written(all, "+447700900231")).toHaveLength(3);
    all.setHand([{ a: "+447700900231", b: "+447700900500", apart: true }]);
    expect(written(all, "+447700900231")).toEqual(["+441632960118", "+447700900231"]);
    expect(written(all, "+447700900500")).toEqual(["+447700900500"]);
    expect(all.of("+447700900500")?.name).toBe("Bela");
  });

  test("what a messenger calls an address is its name where no address book has one", () => {
    const all = persons([["Ana", "+447700900231"]]);
    all.putName(all.note("user-77"), "Zora");
    expect(all.of("user-77")?.name).toBe("Zora");
    expect(all.search("zo", 5).map(({ key }) => key)).toEqual(["user-77"]);
  });

  test("whatever is joined and kept apart: each address is of one person, and two that are kept apart are never the same", () => {
    const address = fc.integer({ min: 0, max: 9 }).map((number) => `user-${number}`);
    const join = fc.record({ a: address, b: address, apart: fc.boolean() }).filter(({ a, b }) => a !== b);
    fc.assert(
      fc.property(
        fc.array(fc.array(address, { minLength: 1, maxLength: 5 }), { maxLength: 8 }),
        fc.array(join, { maxLength: 8 }),
        (cards, hand) => {
          const all = persons(cards.map((one) => [undefined, ...one]));
          all.setHand(hand);
          const last = new Map(hand.map((one) => [[one.a, one.b].sort().join(), one]));
          for (const one of new Set(cards.flat())) {
            const own = written(all, one) ?? [];
            expect(own).toContain(one);
            for (const other of own) expect(written(all, other)).toEqual(own);
            for (const { a, b, apart } of last.values()) if (apart && a === one) expect(own).not.toContain(b);
          }
        },
      ),
      { numRuns: 300 },
    );
  });

  test("50,000 addresses on as many cards are told apart, and one of them is found", () => {
    const all = persons(
      Array.from({ length: 50_000 }, (_, number) => [`Person ${number}`, `user-${number}`, `mail-${number}@example.org`]),
    );
    expect(all.of("mail-49999@example.org")?.name).toBe("Person 49999");
    // No number says which country it is of: that is found out once, and not for each address.
    expect(all.country).toBeNull();
    for (let number = 0; number < 50_000; number++)
      if (all.nameOf(`user-${number}`) !== `Person ${number}`) throw new Error(`user-${number}`);
  });
});
