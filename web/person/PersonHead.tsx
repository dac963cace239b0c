import { type ReactNode, useState } from "react";
import type { PersonView } from "../../core/stores/people/persons.ts";
import { Face } from "../people/Face.tsx";
import { JoinWith } from "./JoinWith.tsx";
import { TakeApart } from "./TakeApart.tsx";

/** Who it is, and what to do where the wrong ones were joined. */
export function PersonHead({ person, children }: { person: PersonView; children: ReactNode }) {
  const [asked, setAsked] = useState<"join" | "apart" | null>(null);
  const close = () => setAsked(null);
  return (
    <>
      <Face name={person.name} size="size-10" />
      <div className="min-w-0 leading-tight">
        <h1 className="truncate text-lg font-bold" dir="auto">
          {person.name}
        </h1>
        <p className="truncate font-mono text-[13px] text-second">{person.addresses.map(({ written }) => written).join(" · ")}</p>
      </div>
      <span className="ml-auto flex items-center gap-2">
        {children}
        <button type="button" className="button" onClick={() => setAsked("join")}>
          Is also…
        </button>
        {person.addresses.length > 1 && (
          <button type="button" className="button" onClick={() => setAsked("apart")}>
            Wrong person joined? Take apart…
          </button>
        )}
      </span>
      {asked === "join" && <JoinWith person={person} onClose={close} />}
      {asked === "apart" && <TakeApart person={person} onClose={close} />}
    </>
  );
}
