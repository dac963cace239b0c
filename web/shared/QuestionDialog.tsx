import { useStore } from "zustand";
import { askedStore } from "./ask.ts";
import { Modal } from "./Modal.tsx";

/** The question that is asked now, wherever in the application it comes from. */
export function QuestionDialog() {
  const asked = useStore(askedStore, (state) => state.asked);
  if (!asked) return null;
  return (
    <Modal key={`${asked.title} ${asked.words}`} label={asked.title} box="max-w-lg p-5" onClose={() => asked.answer(false)}>
      {() => (
        <>
          <h2 className="text-lg font-bold">{asked.title}</h2>
          <p>{asked.words}</p>
          <p className="modal-action mt-1">
            {asked.does && (
              <button type="button" className="button" onClick={() => asked.answer(false)}>
                Leave it as it is
              </button>
            )}
            <button type="button" className="button button-main" onClick={() => asked.answer(true)}>
              {asked.does ?? "Understood"}
            </button>
          </p>
        </>
      )}
    </Modal>
  );
}
