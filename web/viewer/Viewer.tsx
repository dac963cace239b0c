import { ChevronLeft, ChevronRight, Columns2, PanelRight } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { formatNamed } from "../../core/filetypes/table.ts";
import { Turns } from "../../core/work/turns.ts";
import { useSession, useSessionState } from "../session/use-session.ts";
import { StateAndCondition } from "../shared/Marks.tsx";
import { Modal } from "../shared/Modal.tsx";
import { bytes, count, nameOf } from "../shared/words.ts";
import { type Found, isOfTicket } from "../worker/finds/protocol.ts";
import { FontStage } from "./FontStage.tsx";
import { ImageStage } from "./ImageStage.tsx";
import { ListStage } from "./ListStage.tsx";
import { PagesStage } from "./PagesStage.tsx";
import { PlayerStage } from "./PlayerStage.tsx";
import { TextStage } from "./TextStage.tsx";
import { WordStage } from "./WordStage.tsx";

/** How a find is shown large, by the way its format is looked at. */
const STAGES = {
  image: ImageStage,
  video: PlayerStage,
  sound: PlayerStage,
  text: TextStage,
  pages: PagesStage,
  list: ListStage,
  letters: FontStage,
} as const;

/** Things that stand side by side at most. */
const MOST_BESIDE = 4;
/** Of them those that stay while one looks on. */
const MOST_KEPT = MOST_BESIDE - 1;

function Stage({ find, isInHand }: { find: Found; isInHand: boolean }) {
  const { preview } = formatNamed(find.format);
  const One = preview === null || find.extents.length === 0 ? WordStage : STAGES[preview];
  return <One key={find.key} find={find} isInHand={isInHand} />;
}

interface Props {
  readonly find: Found;
  readonly facts: React.ReactNode;
  /** It was not come to from the wall: there is none before it and none behind. */
  readonly isAlone?: boolean;
  readonly onClose: () => void;
}

/** One find large, or up to four side by side: looked at, listened to, read, chosen. Next and previous as on the wall. */
export function Viewer({ find, facts, isAlone = false, onClose }: Props) {
  const session = useSession();
  const tray = useSessionState((state) => state.tray);
  const total = useSessionState((state) => state.answer?.total ?? 0);
  const [beside, setBeside] = useState<readonly Found[]>([]);
  const [isTold, setTold] = useState(true);
  const [place, setPlace] = useState<number | null>(null);
  const box = useRef<HTMLDivElement>(null);
  // Not a button: the keys speak of what is shown.
  useEffect(() => box.current?.focus(), []);
  const chosen = tray.has(find.key);
  const isPlayed = ["video", "sound"].includes(formatNamed(find.format).preview ?? "");

  /** Keys are obeyed one after the other: what one of them moved to is there before the next one speaks of it. */
  const [turns] = useState(() => new Turns());
  const inHand = () => (isAlone ? find : (session.store.getState().selected ?? find));
  async function step(by: number): Promise<void> {
    if (isAlone) return;
    const next = await session.looking.neighbour(inHand(), by);
    if (!next) return;
    session.select(next.find);
    setPlace(next.place);
    box.current?.focus();
  }
  const isBeside = beside.some(({ key }) => key === find.key);
  const putBeside = (one: Found) =>
    setBeside((now) =>
      now.some(({ key }) => key === one.key) ? now.filter(({ key }) => key !== one.key) : [...now, one].slice(-MOST_KEPT),
    );
  const choose = (one: Found) => isOfTicket(one) && session.choose([one.key], !session.store.getState().tray.has(one.key));

  useHotkeys(
    ["right", "left", "pagedown", "pageup", "space", "s", "i"],
    (event) => {
      const { key } = event;
      // Within a player the arrows move in time; a field or button keeps its own keys.
      const target = event.target as HTMLElement;
      if (key === " " && target.closest("button, a, select, input")) return;
      if (key.startsWith("Arrow") && (isPlayed || target.closest("input, select"))) return;
      event.preventDefault();
      void turns.take(() => {
        if (key === "ArrowRight" || key === "PageDown") return step(1);
        if (key === "ArrowLeft" || key === "PageUp") return step(-1);
        if (key === " ") return choose(inHand());
        return key === "s" ? putBeside(inHand()) : setTold((told) => !told);
      });
    },
    { enableOnFormTags: true },
  );

  const shown = isBeside ? beside : [...beside, find];
  return (
    <Modal label={`${nameOf(find)}, large`} box="h-[96vh] w-[97vw] max-h-none max-w-none p-3" onClose={onClose}>
      {(dialog) => (
        <>
          <div className="flex items-center gap-3">
            {!isAlone && (
              <>
                <button type="button" className="button px-2" aria-label="The one before" onClick={() => void step(-1)}>
                  <ChevronLeft className="size-5" aria-hidden="true" />
                </button>
                <button type="button" className="button px-2" aria-label="The next one" onClick={() => void step(1)}>
                  <ChevronRight className="size-5" aria-hidden="true" />
                </button>
              </>
            )}
            <h2 className="min-w-0 truncate text-lg font-bold">{nameOf(find)}</h2>
            <StateAndCondition find={find} />
            <span className="whitespace-nowrap text-second">
              {bytes(find.size)}
              {find.width && find.height ? ` · ${count(find.width)} × ${count(find.height)}` : ""}
              {place === null ? "" : ` · ${count(place + 1)} of ${count(total)}`}
            </span>
            <span className="ml-auto flex gap-2">
              <button type="button" className="button" aria-pressed={isBeside} onClick={() => putBeside(find)}>
                <Columns2 className="size-4" aria-hidden="true" /> {isBeside ? "Not side by side" : "Keep beside"}{" "}
                <kbd className="key">S</kbd>
              </button>
              <button type="button" className="button" aria-pressed={isTold} onClick={() => setTold(!isTold)}>
                <PanelRight className="size-4" aria-hidden="true" /> Facts <kbd className="key">I</kbd>
              </button>
              {isOfTicket(find) && (
                <button
                  type="button"
                  className={`button ${chosen ? "button-lamp" : ""}`}
                  disabled={find.extents.length === 0}
                  onClick={() => void choose(find)}
                >
                  {chosen ? "In tray ✓" : "Put in tray"} <kbd className="key">Space</kbd>
                </button>
              )}
              <button type="button" className="button" onClick={() => dialog.current?.close()}>
                Close <kbd className="key">Esc</kbd>
              </button>
            </span>
          </div>
          <div className="flex min-h-0 flex-1 gap-3">
            <div
              ref={box}
              tabIndex={-1}
              className={`grid min-h-0 min-w-0 flex-1 gap-2 outline-none ${shown.length > 1 ? "grid-cols-2" : ""} ${shown.length > 2 ? "grid-rows-2" : ""}`}
            >
              {shown.map((one) => (
                <figure key={one.key} className="flex min-h-0 min-w-0 flex-col overflow-hidden rounded-field bg-base-300">
                  <div className="min-h-0 flex-1">
                    <Stage find={one} isInHand={one.key === find.key} />
                  </div>
                  {shown.length > 1 && (
                    <figcaption
                      className={`flex items-center gap-3 px-3 py-1.5 text-sm ${one.key === find.key ? "bg-glow" : "bg-base-100"}`}
                    >
                      <span className="min-w-0 flex-1 truncate font-semibold" title={nameOf(one)}>
                        {nameOf(one)}
                      </span>
                      <span className="whitespace-nowrap text-second">
                        {one.width && one.height ? `${one.width} × ${one.height}` : bytes(one.size)}
                      </span>
                      <StateAndCondition find={one} />
                      {isOfTicket(one) && (
                        <button
                          type="button"
                          className={`button h-7 ${tray.has(one.key) ? "button-lamp" : ""}`}
                          onClick={() => void choose(one)}
                        >
                          {tray.has(one.key) ? "In tray ✓" : "Choose"}
                        </button>
                      )}
                    </figcaption>
                  )}
                </figure>
              ))}
            </div>
            {isTold && facts}
          </div>
        </>
      )}
    </Modal>
  );
}
