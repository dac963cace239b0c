import type { StoreApi } from "zustand";
import type { Query } from "../../core/finds/find-query.ts";
import type { Found } from "../worker/finds/protocol.ts";
import type { Desks } from "./desks.ts";
import type { SessionState } from "./session-state.ts";

/** What is shown of a find: its picture, or why there is none. */
export type Preview = { readonly address: string } | { readonly word: string };

/** Previews kept at hand. */
const MAX_PREVIEWS = 600;

/** Looking at the finds of an open ticket: questions, and pictures. */
export class Looking {
  readonly #store: StoreApi<SessionState>;
  readonly #desks: Desks;
  readonly #previews = new Map<string, Promise<Preview | null>>();
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
        this.#store.setState({ answer: await this.#desks.index.ask(this.#store.getState().query) });
      }
    } finally {
      this.#asking = false;
    }
  }

  /** A picture of a find as an address that an image element can show, or a word in its place. */
  preview(found: Found, side: number): Promise<Preview | null> {
    const key = `${found.key} ${side}`;
    const known = this.#previews.get(key);
    if (known) return known;
    const drawn = this.#draw(found, side);
    this.#previews.set(key, drawn);
    if (this.#previews.size > MAX_PREVIEWS) {
      const [oldest, address] = [...this.#previews][0];
      this.#previews.delete(oldest);
      // Images that still show it have decoded it by now.
      void address.then((shown) => shown && "address" in shown && URL.revokeObjectURL(shown.address));
    }
    return drawn;
  }

  async #draw(found: Found, side: number): Promise<Preview | null> {
    try {
      const answer = await this.#desks.reading.preview(found, side);
      return answer && "picture" in answer ? { address: URL.createObjectURL(answer.picture) } : answer;
    } catch (cause) {
      return { word: `it cannot be shown: ${cause instanceof Error ? cause.message : String(cause)}` };
    }
  }

  /** Storage was opened: what could not be drawn before can be now. */
  forget(): void {
    this.#previews.clear();
  }
}
