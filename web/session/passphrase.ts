import { createStore } from "zustand/vanilla";

/** A passphrase that is asked for: of what, and whether one was given that was not right. */
export interface Question {
  readonly name: string;
  readonly wrong: boolean;
  answer(passphrase: string | null): void;
}

export const passphraseStore = createStore<{ question: Question | null }>()(() => ({ question: null }));

/** Asks the person for the passphrase of a backup. @returns null where they do not know it */
export const askPassphrase = (name: string, wrong: boolean): Promise<string | null> =>
  new Promise((resolve) => {
    passphraseStore.setState({
      question: {
        name,
        wrong,
        answer(passphrase) {
          passphraseStore.setState({ question: null });
          resolve(passphrase);
        },
      },
    });
  });
