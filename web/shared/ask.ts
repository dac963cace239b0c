import { createStore } from "zustand/vanilla";

/** A question that a person answers before something is done that cannot be taken back, or a word that they must have seen. */
export interface Asked {
  readonly title: string;
  readonly words: string;
  /** What the button says that does it; null: there is only something to be read. */
  readonly does: string | null;
  answer(yes: boolean): void;
}

export const askedStore = createStore<{ asked: Asked | null }>()(() => ({ asked: null }));

const put = (question: Omit<Asked, "answer">): Promise<boolean> =>
  new Promise((resolve) => {
    // One at a time: a question that another one overtakes is answered with no.
    askedStore.getState().asked?.answer(false);
    askedStore.setState({
      asked: {
        ...question,
        answer(yes) {
          askedStore.setState({ asked: null });
          resolve(yes);
        },
      },
    });
  });

/** Asks. @returns true where the person wants it done */
export const ask = (title: string, words: string, does: string): Promise<boolean> => put({ title, words, does });

/** Says something that must not be missed. Kept when it was read. */
export const say = (title: string, words: string): Promise<boolean> => put({ title, words, does: null });
