import { KeyRound } from "lucide-react";
import { useState } from "react";
import { useStore } from "zustand";
import { passphraseStore, type Question } from "../session/passphrase.ts";
import { Modal } from "./Modal.tsx";
import { Warning } from "./Warning.tsx";

/** Asks for the passphrase of an encrypted backup, wherever in the application it is opened. */
export function PassphraseDialog() {
  const question = useStore(passphraseStore, (state) => state.question);
  return question ? <Ask key={`${question.name} ${question.wrong}`} question={question} /> : null;
}

function Ask({ question }: { question: Question }) {
  const [text, setText] = useState("");
  const title = `${question.name} is encrypted`;
  return (
    <Modal label={title} box="max-w-lg p-5" onClose={() => question.answer(null)}>
      {() => (
        <form
          className="flex flex-col gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            if (text) question.answer(text);
          }}
        >
          <h2 className="flex items-center gap-2 text-lg font-bold">
            <KeyRound className="size-5" aria-hidden="true" /> {title}
          </h2>
          <p>The owner chose a passphrase when the backup was made. Without it nothing in it can be read; it is not guessed here.</p>
          {question.wrong && <Warning>That was not the passphrase of this backup. Large and small letters count.</Warning>}
          <label className="flex flex-col gap-1 font-semibold">
            Passphrase
            <input
              type="password"
              autoComplete="off"
              className="h-10 rounded-field border border-second bg-base-100 px-3 font-normal"
              value={text}
              onChange={(event) => setText(event.target.value)}
            />
          </label>
          <p className="text-sm text-second">It is used to unpack the backup once into this browser's own storage, and is not kept.</p>
          <p className="flex justify-end gap-2">
            <button type="button" className="button" onClick={() => question.answer(null)}>
              Leave it closed
            </button>
            <button type="submit" className="button button-main" disabled={!text}>
              Open the backup
            </button>
          </p>
        </form>
      )}
    </Modal>
  );
}
