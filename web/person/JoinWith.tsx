import { useState } from "react";
import type { PersonView } from "../../core/stores/people/persons.ts";
import { usePeople } from "../people/use-people.ts";
import { useSession } from "../session/use-session.ts";
import { Modal } from "../shared/Modal.tsx";
import { SearchField } from "../shared/SearchField.tsx";

/** Persons that are shown to choose from, and addresses of each that are joined. */
const MOST = 60;
const MOST_ADDRESSES = 20;
const keysOf = ({ addresses }: PersonView): string[] => addresses.slice(0, MOST_ADDRESSES).map(({ key }) => key);

/** Who else is this one? */
export function JoinWith({ person, onClose }: { person: PersonView; onClose: () => void }) {
  const session = useSession();
  const [words, setWords] = useState("");
  const found = usePeople((desk) => desk.persons(words, MOST + 1), words)?.filter(({ key }) => key !== person.key);
  return (
    <Modal label={`${person.name} is also`} box="max-w-lg" onClose={onClose}>
      {(dialog) => (
        <>
          <h2 className="text-lg font-bold">{person.name} is also…</h2>
          <SearchField label="Name or address" placeholder="Name or address" value={words} onChange={setWords} className="w-full" />
          <ul className="h-80 overflow-y-auto" aria-label="People">
            {found?.slice(0, MOST).map((one) => (
              <li key={one.key} className="border-b border-line">
                <button
                  type="button"
                  className="flex w-full cursor-pointer flex-col px-2 py-1.5 text-left hover:bg-base-200"
                  onClick={() => {
                    void session.sayOfPeople(keysOf(person), keysOf(one), false);
                    dialog.current?.close();
                  }}
                >
                  <span className="font-semibold" dir="auto">
                    {one.name}
                  </span>
                  <span className="w-full truncate font-mono text-[13px] text-second">
                    {one.addresses.map(({ written }) => written).join(" · ")}
                  </span>
                </button>
              </li>
            ))}
            {found?.length === 0 && <li className="p-2 text-second">Nobody else is called so.</li>}
            {(found?.length ?? 0) > MOST && <li className="p-2 text-second">There are more: type a name or a number.</li>}
          </ul>
          <div className="flex justify-end">
            <button type="button" className="button" onClick={() => dialog.current?.close()}>
              Leave it so
            </button>
          </div>
        </>
      )}
    </Modal>
  );
}
