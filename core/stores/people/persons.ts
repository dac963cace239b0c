import { z } from "zod";
import { folded, wordsOf } from "../../finds/fold.ts";
import { addressKey, countryOf } from "../numbers.ts";

/** What somebody said of two addresses, by their keys: that they are one person's, or two persons'. */
export const HandJoin = z.object({ a: z.string().max(500), b: z.string().max(500), apart: z.boolean() });
export type HandJoin = z.infer<typeof HandJoin>;

/** An address of a person. `key`: what two ways to write it have in common (see numbers.ts). */
export interface PersonAddress {
  readonly key: string;
  readonly written: string;
  readonly kind: "number" | "mail" | "handle";
  /** How it came to be this person's: its card in an address book, or somebody's word; null: by itself. */
  readonly joined: "card" | "hand" | null;
  /** What address books and messengers call whoever has it. */
  readonly names: readonly string[];
}

/** One person, from wherever it came. */
export interface PersonView {
  /** The least of its addresses' keys: it names the person as long as nothing is joined or taken apart. */
  readonly key: string;
  readonly name: string;
  readonly addresses: readonly PersonAddress[];
}

interface Card {
  readonly name: string | undefined;
  readonly addresses: readonly number[];
}

interface Built {
  /** Key of each address by its number. */
  readonly keys: readonly (string | null)[];
  /** The root that stands for each key's person. */
  readonly roots: ReadonlyMap<string, string>;
  readonly members: ReadonlyMap<string, readonly string[]>;
  readonly why: ReadonlyMap<string, "card" | "hand">;
  readonly names: ReadonlyMap<string, ReadonlySet<string>>;
  readonly written: ReadonlyMap<string, string>;
  /** What address books call whoever has an address, by its key: by its own card, else by one of the same person. */
  readonly bookNames: ReadonlyMap<string, string>;
}

/** Addresses of one card that are joined each with each: a card of more is nobody's. */
const MOST_ON_CARD = 60;
/** Numbers by which the country is told. */
const MOST_FOR_COUNTRY = 2000;

/**
 * Who is whom: addresses of a ticket's media, joined to persons by the cards of address books and by what somebody said. One that was said to be another
 * person's stays apart, whatever a card says. Worked out anew when something came and somebody asks.
 */
export class Persons {
  readonly #raw: string[] = [];
  readonly #ids = new Map<string, number>();
  readonly #cards: Card[] = [];
  /** What a messenger's own list calls addresses. */
  readonly #called: { readonly address: number; readonly name: string }[] = [];
  #hand: readonly HandJoin[] = [];
  #told: string | null = null;
  #built: Built | null = null;
  #country: string | null | undefined;
  readonly #keys: (string | null)[] = [];
  #keysOf: string | null = null;

  /** Takes in an address as it is written. @returns its number */
  note(address: string): number {
    const known = this.#ids.get(address);
    if (known !== undefined) return known;
    const id = this.#raw.push(address) - 1;
    this.#ids.set(address, id);
    this.#built = null;
    return id;
  }

  putCard(name: string | undefined, addresses: readonly number[]): void {
    this.#cards.push({ name, addresses });
    this.#built = null;
    this.#country = undefined;
  }

  putName(address: number, name: string): void {
    this.#called.push({ address, name });
    this.#built = null;
  }

  /** What was said by hand, the oldest first: the last word counts. */
  setHand(joins: readonly HandJoin[]): void {
    this.#hand = joins;
    this.#built = null;
  }

  /** The country whose numbers stand without a code (ISO 3166-1 alpha-2), as the ticket says. Null: it is guessed from the address books. */
  setCountry(country: string | null): void {
    if (country === this.#told) return;
    this.#told = country;
    this.#country = undefined;
    this.#built = null;
  }

  get country(): string | null {
    // None is an answer too: asking the cards again for each address would cost all of them each time.
    if (this.#country === undefined) this.#country = this.#told ?? countryOf(this.#numbersOnCards());
    return this.#country;
  }

  #numbersOnCards(): string[] {
    return this.#cards
      .flatMap(({ addresses }) => addresses.map((id) => this.#raw[id]))
      .filter((address) => address.startsWith("+"))
      .slice(0, MOST_FOR_COUNTRY);
  }

  /** What an address has in common with the other ways to write it. */
  keyOf(address: string | undefined): string | null {
    const id = address === undefined ? undefined : this.#ids.get(address);
    return id === undefined ? addressKey(address, this.country) : this.#keysFor(this.country)[id];
  }

  /** What address books call whoever has an address. */
  nameOf(address: string | undefined): string | undefined {
    const key = this.keyOf(address);
    return key === null ? undefined : this.#now.bookNames.get(key);
  }

  /** What address books call whom, by the keys of addresses. */
  get bookNames(): ReadonlyMap<string, string> {
    return this.#now.bookNames;
  }

  /** The person that an address is of, by its key or as it is written. Null: no such address was seen. */
  of(address: string): PersonView | null {
    const built = this.#now;
    const key = built.roots.has(address) ? address : this.keyOf(address);
    const root = key === null ? undefined : built.roots.get(key);
    return root === undefined ? null : this.#view(root);
  }

  /** Which addresses are a person's, in whatever way they are written: 1, by the number of each. */
  idsOf({ addresses }: PersonView): Uint8Array {
    const wanted = new Set(addresses.map(({ key }) => key));
    return this.idsWhere((_, key) => key !== null && wanted.has(key));
  }

  /** Of which addresses this holds: 1, by the number of each; `key`: what the ways to write it have in common. */
  idsWhere(holds: (written: string, key: string | null) => boolean): Uint8Array {
    return Uint8Array.from(this.#keysFor(this.country), (key, id) => Number(holds(this.#raw[id], key)));
  }

  /** Persons whose name or address holds all of the words, by their names; `most` of them. */
  search(words: string, most: number): PersonView[] {
    const asked = wordsOf(words);
    const found: PersonView[] = [];
    for (const root of this.#now.members.keys()) {
      const person = this.#view(root);
      const text = folded([person.name, ...person.addresses.flatMap(({ key, written, names }) => [key, written, ...names])].join("\n"));
      if (asked.every((word) => text.includes(word))) found.push(person);
    }
    return found.sort((a, b) => COLLATOR.compare(a.name, b.name)).slice(0, most);
  }

  #view(root: string): PersonView {
    const { members, names, written, why, bookNames } = this.#now;
    const keys = [...(members.get(root) ?? [])].sort();
    const addresses = keys.map((key): PersonAddress => {
      const plain = written.get(key) ?? key;
      const kind = /^\+?\d+$/.test(key) ? "number" : key.includes("@") && !key.startsWith("@") ? "mail" : "handle";
      return { key, written: plain, kind, joined: why.get(key) ?? null, names: [...(names.get(key) ?? [])] };
    });
    const inBook = keys.map((key) => bookNames.get(key)).find(Boolean);
    const called = addresses.flatMap((one) => one.names)[0];
    return { key: keys[0] ?? root, name: inBook ?? called ?? addresses[0]?.written ?? root, addresses };
  }

  get #now(): Built {
    this.#built ??= this.#build();
    return this.#built;
  }

  /** Telling a number's plan costs most of all: it is done once for each address, as long as the country stays the same. */
  #keysFor(country: string | null): readonly (string | null)[] {
    if (this.#keysOf !== country) this.#keys.length = 0;
    this.#keysOf = country;
    for (let id = this.#keys.length; id < this.#raw.length; id++) this.#keys.push(addressKey(this.#raw[id], country));
    return this.#keys;
  }

  /** Union-find (disjoint sets, path halving) over the keys of addresses: hands first, then cards. */
  #build(): Built {
    const country = this.country;
    const keys = this.#keysFor(country);
    const over = new Map<string, string>();
    const written = new Map<string, string>();
    keys.forEach((key, id) => {
      if (key === null) return;
      if (!over.has(key)) over.set(key, key);
      // The way that says most: with its country code.
      const before = written.get(key);
      if (before === undefined || (this.#raw[id].startsWith("+") && !before.startsWith("+"))) written.set(key, this.#raw[id]);
    });
    const rootOf = (key: string): string => {
      let at = key;
      for (let next = over.get(at) ?? at; next !== at; next = over.get(at) ?? at) {
        over.set(at, over.get(next) ?? next);
        at = over.get(at) ?? at;
      }
      return at;
    };
    const said = new Map<string, HandJoin>();
    for (const join of this.#hand) said.set([join.a, join.b].sort().join("\n"), join);
    const apart = [...said.values()].filter((join) => join.apart && over.has(join.a) && over.has(join.b));
    const why = new Map<string, "card" | "hand">();
    const unite = (a: string, b: string, reason: "card" | "hand"): void => {
      const [one, other] = [rootOf(a), rootOf(b)];
      if (one === other) return;
      const isApart = apart.some((join) => {
        const [x, y] = [rootOf(join.a), rootOf(join.b)];
        return (x === one && y === other) || (x === other && y === one);
      });
      if (isApart) return;
      over.set(other, one);
      for (const key of [a, b]) if (!why.has(key) || reason === "hand") why.set(key, reason);
    };
    for (const { a, b, apart: isApart } of said.values()) if (!isApart && over.has(a) && over.has(b)) unite(a, b, "hand");
    const names = new Map<string, Set<string>>();
    const bookNames = new Map<string, string>();
    const call = (key: string, name: string) => {
      const known = names.get(key);
      if (known) known.add(name);
      else names.set(key, new Set([name]));
    };
    for (const { name, addresses } of this.#cards) {
      const own = [...new Set(addresses.map((id) => keys[id]).filter((key) => key !== null))].slice(0, MOST_ON_CARD);
      for (const key of own) {
        if (!name) continue;
        call(key, name);
        if (!bookNames.has(key)) bookNames.set(key, name);
      }
      // Where somebody took it apart the first may be of another one than the rest: each is tried with each.
      for (let one = 0; one < own.length; one++)
        for (let other = one + 1; other < (apart.length > 0 || one === 0 ? own.length : 0); other++) unite(own[one], own[other], "card");
    }
    for (const { address, name } of this.#called) {
      const key = keys[address];
      if (key !== null && key !== addressKey(name, null)) call(key, name);
    }
    const roots = new Map<string, string>();
    const members = new Map<string, string[]>();
    for (const key of over.keys()) {
      const root = rootOf(key);
      roots.set(key, root);
      const own = members.get(root);
      if (own) own.push(key);
      else members.set(root, [key]);
    }
    for (const own of members.values()) {
      const name = own.map((key) => bookNames.get(key)).find(Boolean);
      if (name) for (const key of own) if (!bookNames.has(key)) bookNames.set(key, name);
    }
    return { keys, roots, members, why, names, written, bookNames };
  }
}

const COLLATOR = new Intl.Collator();
