import { useState } from "react";
import { useMedia, useMediumInHand } from "../session/use-session.ts";
import { AddStorage } from "./AddStorage.tsx";
import { CopyPanel } from "./CopyPanel.tsx";
import { MediaRow } from "./MediaRow.tsx";
import { MediumActions } from "./MediumActions.tsx";
import { OpenMedium } from "./OpenMedium.tsx";
import { usePart } from "./use-part.ts";

/** Is it working, what has it found, how long still, is a medium dying? */
export function ScanScreen() {
  const media = useMedia();
  const state = useMediumInHand();
  const [adding, setAdding] = useState(false);
  if (media.length === 0)
    return (
      <main className="flex flex-1 flex-col">
        <AddStorage onDone={null} />
      </main>
    );
  return (
    <main className="flex min-h-0 flex-1 flex-col gap-3 overflow-auto p-4">
      <MediaRow adding={adding || state === null} onAdd={() => setAdding(true)} onLook={() => setAdding(false)} />
      {adding || state === null ? (
        <AddStorage onDone={state ? () => setAdding(false) : null} />
      ) : state.medium.aside ? (
        <section className="panel flex items-center gap-3 p-4" aria-label="Set aside">
          <p className="flex-1">
            <strong>{state.medium.name} is set aside.</strong> It is not worked on, and its finds are not shown. Nothing of it is lost.
          </p>
          <MediumActions state={state} />
        </section>
      ) : state.medium.source ? (
        <OpenMedium key={state.medium.id} state={state} source={state.medium.source} />
      ) : (
        <PartOfPhone medium={state.medium.id} />
      )}
    </main>
  );
}

/** A part of a phone that was found, and is not read yet. */
function PartOfPhone({ medium }: { medium: number }) {
  const part = usePart(medium);
  return part && <CopyPanel part={part} />;
}
