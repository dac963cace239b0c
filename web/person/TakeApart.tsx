import { useState } from "react";
import type { PersonView } from "../../core/stores/people/persons.ts";
import { useSession } from "../session/use-session.ts";
import { Modal } from "../shared/Modal.tsx";

/** Which of these addresses are somebody else's? */
export function TakeApart({ person, onClose }: { person: PersonView; onClose: () => void }) {
  const session = useSession();
  const [others, setOthers] = useState<readonly string[]>([]);
  const rest = person.addresses.map(({ key }) => key).filter((key) => !others.includes(key));
  const canTake = others.length > 0 && rest.length > 0;
  return (
    <Modal label={`Take ${person.name} apart`} box="max-w-lg" onClose={onClose}>
      {(dialog) => (
        <>
          <h2 className="text-lg font-bold">Which of these are somebody else’s?</h2>
          <ul className="max-h-80 overflow-y-auto">
            {person.addresses.map(({ key, written, names }) => (
              <li key={key} className="border-b border-line">
                <label className="flex cursor-pointer items-center gap-3 py-2">
                  <input
                    type="checkbox"
                    className="checkbox checkbox-sm rounded-[4px] border-second"
                    checked={others.includes(key)}
                    onChange={({ target }) => setOthers(target.checked ? [...others, key] : others.filter((one) => one !== key))}
                  />
                  <span className="min-w-0 flex-1 [overflow-wrap:anywhere]">
                    <span className="font-mono">{written}</span>
                    {names.length > 0 && <span className="block text-sm text-second">called {names.slice(0, 4).join(", ")}</span>}
                  </span>
                </label>
              </li>
            ))}
          </ul>
          <p className="text-sm text-second">Nothing of the storage is changed: only here they are shown as two. It can be taken back.</p>
          <div className="flex justify-end gap-2">
            <button type="button" className="button" onClick={() => dialog.current?.close()}>
              Leave it so
            </button>
            <button
              type="button"
              className="button button-lamp"
              disabled={!canTake}
              onClick={() => {
                void session.sayOfPeople(others, rest, true);
                dialog.current?.close();
              }}
            >
              Take apart
            </button>
          </div>
        </>
      )}
    </Modal>
  );
}
