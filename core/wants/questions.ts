import { KINDS } from "../finds/find.ts";
import { EVERYTHING, type Query } from "../finds/find-query.ts";
import type { RecordKind } from "../finds/record.ts";
import type { Want, Wanted } from "../triage/intake.ts";

type FileKind = (typeof KINDS)[number];

/** What of files and of people's data a want is about. Databases and apps are what a technician looks into, and nobody asks for. */
const ASKED: Readonly<Record<Wanted, { readonly files: readonly FileKind[]; readonly people: readonly RecordKind[] }>> = {
  "any kind": { files: ["photo", "video", "audio", "document"], people: ["message", "chat", "contact", "call", "event"] },
  photos: { files: ["photo"], people: [] },
  videos: { files: ["video"], people: [] },
  sound: { files: ["audio"], people: [] },
  documents: { files: ["document"], people: [] },
  contacts: { files: [], people: ["contact"] },
  messages: { files: [], people: ["message", "chat"] },
  chats: { files: [], people: ["chat", "message"] },
  calls: { files: [], people: ["call"] },
  calendar: { files: [], people: ["event"] },
};

/** Small words that say how things hang together, and stand in no file's name: common practice, no source. */
const SMALL = new Set(["the", "a", "an", "of", "and", "about", "with", "from", "by", "to", "in", "on", "my", "our", "her", "his"]);

/** The words that are looked for, of those that a customer said. */
const tellingWords = (words: string): string => {
  const all = words.split(/\s+/).filter(Boolean);
  const telling = all.filter((word) => !SMALL.has(word.toLowerCase()));
  return (telling.length > 0 ? telling : all).join(" ");
};

/** The kinds that a scan must go over for these wants; what people mean by rows lies in databases. Null: nobody asks for anything. */
export const kindsWanted = (wants: readonly Pick<Want, "kind">[]): readonly FileKind[] | null => {
  const asked = wants.map(({ kind }) => ASKED[kind]);
  const wanted = new Set(asked.flatMap(({ files, people }) => (people.length > 0 ? [...files, "database" as const] : files)));
  return wanted.size > 0 ? KINDS.filter((kind) => wanted.has(kind)) : null;
};

const DAY = 86_400_000;
/** Days that are open at one end. */
const [FIRST, LAST] = [-100_000, 100_000];
const dayOf = (text: string): number => Math.floor(Date.parse(text) / DAY);

const daysOf = ({ from, to }: Want): Query["days"] => (from || to ? { from: from ? dayOf(from) : FIRST, to: to ? dayOf(to) : LAST } : null);

/** A want as a question to the finds. Null: it asks for no files; of who is in a picture nothing is known. */
export function findsWanted(want: Want): Query | null {
  const { files } = ASKED[want.kind];
  if (files.length === 0 || want.who) return null;
  return { ...EVERYTHING, kinds: files, days: daysOf(want), words: tellingWords(want.words) };
}

/**
 * What a want comes to where no find is called by its words: they filter nothing out, and what any of them fits comes first. Null: it has no words, or
 * nothing but words, which then would ask for everything.
 */
export function loosened(want: Want): Query | null {
  const asked = findsWanted(want);
  if (!asked?.words || (want.kind === "any kind" && asked.days === null)) return null;
  return { ...asked, words: "", first: asked.words };
}

/** What is asked of messages, contacts, calls and dates. */
export interface PeopleWant {
  readonly kinds: readonly RecordKind[];
  /** Days since 1970, both inclusive. */
  readonly days: Query["days"];
  /** A name or an address, or nothing. */
  readonly who: string;
  readonly words: string;
}

/** A want as a question to people's data. Null: it asks for none. */
export function peopleWanted(want: Want): PeopleWant | null {
  const { people } = ASKED[want.kind];
  if (people.length === 0) return null;
  return { kinds: people, days: daysOf(want), who: want.who, words: tellingWords(want.words) };
}
