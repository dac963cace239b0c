import { useState } from "react";
import { useLocation } from "react-router";
import type { MediumState } from "../session/session-state.ts";
import { useMedia, useMediumInHand } from "../session/use-session.ts";
import { AddStorage } from "./AddStorage.tsx";
import { CopyPanel } from "./CopyPanel.tsx";
import { MediaRow } from "./MediaRow.tsx";
import { MediumActions } from "./MediumActions.tsx";
import { OpenMedium } from "./OpenMedium.tsx";
import { PeopleMedium } from "./PeopleMedium.tsx";
import { usePart } from "./use-part.ts";

/** Is it working, what has it found, how long still, is a medium dying? */
export function ScanScreen() {
  const media = useMedia();
  const state = useMediumInHand();
  // Whoever came to take something from the phone sees what can be taken.
  const { state: told } = useLocation();
  const [adding, setAdding] = useState((told as { take?: unknown } | null)?.take !== undefined);
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
      ) : (
        <InHand key={state.medium.id} state={state} />
      )}
    </main>
  );
}

/** The medium in hand: set aside, open, or a part of a phone that is not read yet. */
function InHand({ state }: { state: MediumState }) {
  const { id, name, source, aside } = state.medium;
  if (aside)
    return (
      <section className="panel flex items-center gap-3 p-4" aria-label="Set aside">
        <p className="flex-1">
          <strong>{name} is set aside.</strong> It is not worked on, and its finds are not shown. Nothing of it is lost.
        </p>
        <MediumActions state={state} />
      </section>
    );
  if (state.medium.kind === "people" && source) return <PeopleMedium state={state} />;
  return source ? <OpenMedium state={state} source={source} /> : <PartOfPhone medium={id} />;
}

/** A part of a phone that was found, and is not read yet. */
function PartOfPhone({ medium }: { medium: number }) {
  const part = usePart(medium);
  return part && <CopyPanel part={part} />;
}
