import type { Remote } from "comlink";
import type { StoreApi } from "zustand";
import type { Extent } from "../../core/bytes/extents.ts";
import { EVERYTHING, type Query } from "../../core/finds/find-query.ts";
import type { FolderCount } from "../../core/finds/folder-table.ts";
import type { IndexDesk } from "../worker/finds/index-desk.ts";
import type { Found } from "../worker/finds/protocol.ts";
import type { Coded } from "../worker/looking/codecs.ts";
import type {
  BytesAnswer,
  EntriesAnswer,
  InnerAnswer,
  MarkupAnswer,
  PageAnswer,
  PagesAnswer,
  TextAnswer,
} from "../worker/reading/protocol.ts";
import type { WrittenFinds } from "../worker/reading/written.ts";
import type { Desks } from "./desks.ts";
import { PreviewQueue } from "./preview-queue.ts";
import type { SessionState } from "./session-state.ts";

/** What is shown of a find: its picture, its first lines, or why there is neither. */
export type Preview = { readonly address: string } | { readonly lines: readonly string[] } | { readonly word: string };

/** What an element of the page reads by itself: an image, a film, a sound; or why it cannot. `release`: it is not shown any more. */
export type OpenContent =
  | { readonly address: string; readonly lost: readonly Extent[]; readonly release: () => void }
  | { readonly word: string };

/** Previews kept at hand. */
const MAX_PREVIEWS = 600;

/** Looking at the finds of an open ticket: questions, and pictures. */
export class Looking {
  readonly #store: StoreApi<SessionState>;
  readonly #desks: Desks;
  readonly #previews = new Map<string, Promise<Preview | null>>();
  readonly #queue = new PreviewQueue<Preview | null>();
  /** How many show a preview, or wait for it: a tile and the tray may want the same. */
  readonly #askers = new Map<string, number>();
  #asking = false;
  #askAgain = false;

  constructor(store: StoreApi<SessionState>, desks: Desks) {
    this.#store = store;
    this.#desks = desks;
  }

  /** Changes filters and asks; answers that are overtaken by newer questions are not shown. */
  async ask(change: Partial<Query>): Promise<void> {
    this.#store.setState(({ query }) => ({ query: { ...query, ...change } }));
    this.#askAgain = true;
    if (this.#asking) return;
    this.#asking = true;
    try {
      while (this.#askAgain) {
        this.#askAgain = false;
        const { query, behind } = this.#store.getState();
        const answer = await this.#answers.ask(query);
        // Another's answer says nothing of what is looked at now.
        if ((this.#store.getState().behind === null) === (behind === null)) this.#store.setState({ answer });
      }
    } finally {
      this.#asking = false;
    }
  }

  /** Who answers: the ticket's finds, or what was written of them. */
  get #answers(): Remote<IndexDesk> | Remote<WrittenFinds> {
    return this.#store.getState().behind ? this.#desks.reading.written : this.#desks.index;
  }

  /** Looks at what was written last, as it stands where it was written, or at the ticket's finds again, where one was. */
  async lookAt(what: "what was written" | "the ticket"): Promise<void> {
    const { query, answer, selected, behind } = this.#store.getState();
    if ((what === "the ticket") === (behind === null)) return;
    if (behind) this.#store.setState({ ...behind, behind: null });
    else {
      this.forget();
      this.#store.setState({ query: EVERYTHING, answer: null, selected: null, behind: { query, answer, selected } });
    }
    await this.ask({});
  }

  /** Finds `from` (inclusive) to `to` (exclusive) of what is asked for. */
  window = async (from: number, to: number): Promise<Found[]> => this.#answers.window(from, to);

  /** Where a find stands in what is asked for, or -1. */
  placeOf = async (key: string): Promise<number> => this.#answers.placeInAnswer(key);

  folders = async (query: Query, under: string): Promise<FolderCount[]> => this.#answers.folders(query, under);

  /** A picture of a find as an address that an image element can show, or a word in its place. */
  preview(found: Found, side: number): Promise<Preview | null> {
    const key = `${found.key} ${side}`;
    this.#askers.set(key, (this.#askers.get(key) ?? 0) + 1);
    const known = this.#previews.get(key);
    if (known) return known;
    const drawn = this.#queue.ask(key, () => this.#draw(found, side));
    this.#previews.set(key, drawn);
    if (this.#previews.size > MAX_PREVIEWS) {
      const [oldest, address] = [...this.#previews][0];
      this.#previews.delete(oldest);
      // Images that still show it have decoded it by now.
      void address.then((shown) => shown && "address" in shown && URL.revokeObjectURL(shown.address));
    }
    return drawn;
  }

  /** One who asked for it does not show it any more. If nobody does it need not be drawn, if it was not begun. */
  leave(found: Found, side: number): void {
    const key = `${found.key} ${side}`;
    const others = (this.#askers.get(key) ?? 1) - 1;
    if (others > 0) {
      this.#askers.set(key, others);
      return;
    }
    this.#askers.delete(key);
    if (this.#queue.drop(key)) this.#previews.delete(key);
  }

  /**
   * The find that lies `by` places behind another one in the answer, or where `by` leads from its place, as far as the answer goes, and its place.
   * Without another one: the first.
   */
  async neighbour(
    of: Found | null,
    by: number | ((place: number) => number),
  ): Promise<{ readonly find: Found; readonly place: number } | null> {
    const total = this.#store.getState().answer?.total ?? 0;
    const at = of ? await this.placeOf(of.key) : -1;
    const wanted = at < 0 ? 0 : typeof by === "number" ? at + by : by(at);
    const place = Math.max(0, Math.min(total - 1, wanted));
    const [find] = await this.window(place, place + 1);
    return find ? { find, place } : null;
  }

  /** The content itself, as an address. Nothing is copied where it lies in a file. */
  async open(found: Found): Promise<OpenContent> {
    const answer = await this.#desks.reading.content(found);
    if ("word" in answer) return answer;
    const { lost } = answer;
    if ("address" in answer) return { address: answer.address, lost, release: () => {} };
    const address = URL.createObjectURL(answer.content);
    return { address, lost, release: () => URL.revokeObjectURL(address) };
  }

  /** What a film's or sound's streams are coded in; empty where that cannot be told. */
  codecs = (found: Found): Promise<Coded[]> => this.#desks.reading.codecs(found);

  /** The beginning of a text. */
  text = (found: Found): Promise<TextAnswer> => this.#desks.reading.text(found);

  /** The pictures that stand in a document, no side of them longer than `side`. */
  innerPictures = (found: Found, side: number): Promise<InnerAnswer> => this.#desks.reading.innerPictures(found, side);

  /** Numbers of the pages of a document on which all of these words stand. */
  pagesWith = (found: Found, words: string): Promise<PagesAnswer> => this.#desks.reading.pagesWith(found, words);

  /** All bytes of something small. */
  bytes = (found: Found): Promise<BytesAnswer> => this.#desks.reading.bytes(found);

  /** What an archive or backup holds. */
  entries = (found: Found): Promise<EntriesAnswer> => this.#desks.reading.entries(found);

  /** A page of the web, as markup that only lays its text out. */
  markup = (found: Found): Promise<MarkupAnswer> => this.#desks.reading.markup(found);

  /** A page of a document, counted from 1, no side of it longer than `side`. */
  page = (found: Found, number: number, side: number): Promise<PageAnswer> => this.#desks.reading.documentPage(found, number, side);

  async #draw(found: Found, side: number): Promise<Preview | null> {
    try {
      const answer = await this.#desks.reading.preview(found, side);
      return answer && "picture" in answer ? { address: URL.createObjectURL(answer.picture) } : answer;
    } catch (cause) {
      return { word: `it cannot be shown: ${cause instanceof Error ? cause.message : String(cause)}` };
    }
  }

  /** Storage was opened, or something else lies under the same keys: what was drawn before is drawn anew. */
  forget(): void {
    this.#previews.clear();
  }
}
