import { useEffect, useState } from "react";
import { nameOf, plural } from "../shared/words.ts";
import type { Found } from "../worker/finds/protocol.ts";
import { useAnswer } from "./use-answer.ts";

/** Pixels of a side of each. */
const SIDE = 960;

/** The pictures that stand in a document, under its text. Nothing where there are none. */
export function InnerPictures({ find }: { find: Found }) {
  const answer = useAnswer((looking) => looking.innerPictures(find, SIDE), [find.key]);
  const [addresses, setAddresses] = useState<readonly string[]>([]);
  useEffect(() => {
    if (!answer || "word" in answer) return;
    const all = answer.pictures.map(({ picture }) => URL.createObjectURL(picture));
    setAddresses(all);
    return () => all.forEach(URL.revokeObjectURL);
  }, [answer]);
  if (!answer || "word" in answer || answer.pictures.length + answer.left === 0) return null;
  return (
    <section className="mt-4 border-t border-line pt-3" aria-label={`Pictures in ${nameOf(find)}`}>
      <h3 className="font-bold">
        {answer.pictures.length === 0 ? "Pictures in it" : `${plural(answer.pictures.length, "picture")} in it`}
        {answer.left > 0 && (
          <span className="font-normal text-second">
            {" "}
            · {plural(answer.left, "picture")} not drawn here: hand the file over to see them
          </span>
        )}
      </h3>
      <ul className="mt-2 flex flex-wrap gap-3">
        {answer.pictures.map(({ name }, place) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: they never change places, and may share a name
          <li key={place} className="max-w-full">
            {addresses[place] && (
              <img
                className="max-h-80 max-w-full rounded-field border border-line"
                src={addresses[place]}
                alt={name || `Picture ${place + 1}`}
              />
            )}
            {name && <p className="text-sm text-second">{name}</p>}
          </li>
        ))}
      </ul>
    </section>
  );
}
