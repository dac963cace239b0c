import { Archive, Contact, Copy, FileText, FolderOpen, HardDrive, Plus, Smartphone } from "lucide-react";
import type { MediumKind } from "../kept/medium.ts";
import { type MediumState, scanOf } from "../session/session-state.ts";
import { useMedia, useSession, useSessionState } from "../session/use-session.ts";
import { copyWords, partDone, scanWords } from "../shell/scan-words.ts";
import { useCopyNow, usePart } from "./use-part.ts";

const ICONS: Record<MediumKind, typeof HardDrive> = {
  image: HardDrive,
  card: HardDrive,
  partition: Smartphone,
  people: Contact,
  "shared storage": Smartphone,
  copy: Copy,
  folder: FolderOpen,
  backup: Archive,
  export: FileText,
};

/** The media of the ticket side by side, each with where it stands; the one in hand is open below. */
export function MediaRow({ adding, onAdd, onLook }: { adding: boolean; onAdd: () => void; onLook: () => void }) {
  const session = useSession();
  const media = useMedia();
  const inHand = useSessionState((state) => state.inHand);
  return (
    <ul className="flex shrink-0 flex-wrap gap-2" aria-label="Media of this ticket">
      {media.map((state) => (
        <li key={state.medium.id}>
          <MediumButton
            state={state}
            isInHand={!adding && state.medium.id === inHand}
            onTake={() => {
              session.takeInHand(state.medium.id);
              onLook();
            }}
          />
        </li>
      ))}
      <li>
        <button type="button" className="button h-full min-h-13" aria-pressed={adding} onClick={onAdd}>
          <Plus className="size-4" aria-hidden="true" /> Add a medium
        </button>
      </li>
    </ul>
  );
}

function MediumButton({ state, isInHand, onTake }: { state: MediumState; isInHand: boolean; onTake: () => void }) {
  const { medium } = state;
  const scan = scanOf(state);
  const Icon = ICONS[medium.kind];
  return (
    <button
      type="button"
      aria-pressed={isInHand}
      onClick={onTake}
      className={`relative flex h-13 w-62 cursor-pointer items-center gap-2.5 overflow-hidden rounded-box border px-3 text-left ${isInHand ? "border-2 border-ink bg-glow" : "border-line bg-base-100"} ${medium.aside ? "opacity-70" : ""}`}
    >
      <Icon className="size-5 shrink-0" aria-hidden="true" />
      <span className="min-w-0 flex-1 leading-tight">
        <span className="block truncate font-bold">{medium.name}</span>
        <span className="block truncate text-[13px] text-second">
          {medium.source ? `${medium.kind} · ` : ""}
          <Stand state={state} />
        </span>
      </span>
      <span className="absolute bottom-0 left-0 h-1 bg-primary" style={{ width: `${partDone(scan) * 100}%` }} aria-hidden="true" />
    </button>
  );
}

/** Where one medium stands, in a few words. */
function Stand({ state }: { state: MediumState }) {
  const { medium, news, worked } = state;
  if (medium.aside) return "set aside";
  if (!medium.source) return <CopyStanding medium={medium.id} />;
  return `${scanWords(scanOf(state), news?.secondsLeft ?? null)}${worked === "elsewhere" ? ", in another tab" : ""}`;
}

function CopyStanding({ medium }: { medium: number }) {
  const part = usePart(medium);
  return part ? <CopyStandingOf part={part} /> : "not read yet";
}

function CopyStandingOf({ part }: { part: NonNullable<ReturnType<typeof usePart>> }) {
  const { status, done } = useCopyNow(part);
  return copyWords({ status, done, size: part.size });
}
