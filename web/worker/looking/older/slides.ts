import { layout, u16, u32 } from "../../../../core/bytes/layout.ts";
import { type Stream, streamNamed } from "./streams.ts";

/** [MS-PPT] §2.3.1 RecordHeader. The lowest four bits of the first field say whether it holds others. */
const Head = layout(8, { verAndInstance: u16(0), type: u16(2), length: u32(4) });
const HOLDS_OTHERS = 0xf;
const Type = {
  document: 0x03e8,
  slide: 0x03ee,
  slidePersist: 0x03f3,
  textChars: 0x0fa0,
  textBytes: 0x0fa8,
  slideList: 0x0ff0,
  userEdit: 0x0ff5,
  currentUser: 0x0ff6,
  persistDirectory: 0x1772,
} as const;
/** §2.3.2 CurrentUserAtom: where the last edit is told of. */
const CurrentUser = layout(20, { size: u32(8), headerToken: u32(12), offsetToCurrentEdit: u32(16) });
/** §2.3.3 UserEditAtom. */
const UserEdit = layout(28, { lastEdit: u32(16), persistDirectory: u32(20), document: u32(24) });
/** What says that all of it is encrypted (§2.3.2, headerToken). */
const ENCRYPTED = 0xf3d1_c4df;
/** §2.4.14.3: a list of slides, not of masters or notes, by its instance. */
const OF_SLIDES = 0;
const MOST_EDITS = 1000;
const MOST_RECORDS = 200_000;
const MOST_DEEP = 24;
const MOST_SLIDES = 2000;

interface One {
  readonly type: number;
  readonly instance: number;
  readonly at: number;
  readonly from: number;
  readonly to: number;
  readonly holds: boolean;
}

/** The text of slides of the older form, in their order, an empty line between them. @throws where it is encrypted, or says of no slides */
export function textOfSlides(streams: readonly Stream[]): string {
  const user = streamNamed(streams, "Current User");
  const bytes = streamNamed(streams, "PowerPoint Document");
  if (user.length < CurrentUser.size) throw new Error("it does not say where its slides are");
  if (CurrentUser.headerToken(user, 0) === ENCRYPTED)
    throw new Error("it is encrypted: it opens with its password, once it was handed over");
  const deck = new Deck(bytes);
  return deck.slides(CurrentUser.offsetToCurrentEdit(user, 0)).join("\n\n");
}

/** Records of one stream, by where they stand. */
class Deck {
  readonly #bytes: Uint8Array;
  #left = MOST_RECORDS;

  constructor(bytes: Uint8Array) {
    this.#bytes = bytes;
  }

  /** The text of each slide: what the list of slides says of it, then what its own shapes do. */
  slides(lastEdit: number): string[] {
    const { places, document } = this.#placesOf(lastEdit);
    const whole = this.#at(places.get(document) ?? -1);
    if (whole?.type !== Type.document) throw new Error("it does not say where its slides are");
    const list = this.#within(whole).find(({ type, instance }) => type === Type.slideList && instance === OF_SLIDES);
    const slides: string[][] = [];
    for (const one of list ? this.#within(list) : []) {
      if (one.type === Type.slidePersist && slides.length < MOST_SLIDES) {
        const slide = this.#at(places.get(u32At(this.#bytes, one.from)) ?? -1);
        slides.push(slide?.type === Type.slide ? this.#texts(slide, 0) : []);
        // What stands in the list comes before what stands in shapes only.
      } else slides.at(-1)?.unshift(...this.#texts(one, 0));
    }
    return slides.map((texts) => texts.join("\n"));
  }

  /** §2.1.2: from the last edit back: where each object stands as it was saved last. */
  #placesOf(lastEdit: number): { places: Map<number, number>; document: number } {
    const places = new Map<number, number>();
    let document = -1;
    for (let at = lastEdit, edits = 0; at > 0 && edits < MOST_EDITS; edits++) {
      const edit = this.#at(at);
      if (edit?.type !== Type.userEdit || edit.to - edit.at < UserEdit.size) break;
      if (document < 0) document = UserEdit.document(this.#bytes, at);
      const directory = this.#at(UserEdit.persistDirectory(this.#bytes, at));
      // §2.3.4: twenty bits for the first number, twelve for how many there are.
      for (let entry = directory?.from ?? 0; directory?.type === Type.persistDirectory && entry + 4 <= directory.to; ) {
        const told = u32At(this.#bytes, entry);
        const [first, count] = [told & 0xf_ffff, told >>> 20];
        entry += 4;
        for (let index = 0; index < count && entry + 4 <= directory.to; index++, entry += 4)
          if (!places.has(first + index)) places.set(first + index, u32At(this.#bytes, entry));
      }
      const before = UserEdit.lastEdit(this.#bytes, at);
      if (before >= at) break;
      at = before;
    }
    return { places, document };
  }

  #at(at: number): One | null {
    if (at < 0 || at + Head.size > this.#bytes.length || this.#left-- <= 0) return null;
    const told = Head.verAndInstance(this.#bytes, at);
    const from = at + Head.size;
    const to = Math.min(from + Head.length(this.#bytes, at), this.#bytes.length);
    return { type: Head.type(this.#bytes, at), instance: told >> 4, at, from, to, holds: (told & HOLDS_OTHERS) === HOLDS_OTHERS };
  }

  #within({ from, to }: One): One[] {
    const all: One[] = [];
    for (let at = from; at + Head.size <= to; ) {
      const one = this.#at(at);
      if (!one) break;
      all.push(one);
      at = one.to;
    }
    return all;
  }

  /** §2.9.42, §2.9.43: texts in two bytes a letter, or in the lower one of them. */
  #texts(one: One, deep: number): string[] {
    if (one.holds) return deep < MOST_DEEP ? this.#within(one).flatMap((inner) => this.#texts(inner, deep + 1)) : [];
    if (one.type !== Type.textChars && one.type !== Type.textBytes) return [];
    const text = new TextDecoder(one.type === Type.textChars ? "utf-16le" : "latin1").decode(this.#bytes.subarray(one.from, one.to));
    return text.trim() === "" ? [] : [text.replace(/[\r\v]/g, "\n")];
  }
}

const u32At = u32(0);
