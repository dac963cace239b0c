import { RotateCcw, RotateCw, ZoomIn, ZoomOut } from "lucide-react";
import { type PointerEvent, useCallback, useEffect, useRef, useState, type WheelEvent } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { formatNamed } from "../../core/filetypes/table.ts";
import { LostPart } from "../shared/Marks.tsx";
import { usePreview } from "../shared/use-preview.ts";
import { nameOf } from "../shared/words.ts";
import type { Found } from "../worker/finds/protocol.ts";
import { isBrowsersOwn } from "../worker/looking/decodable.ts";
import { FITTING, type Sight, turned, zoomed } from "./sight.ts";
import { useContent } from "./use-content.ts";
import { WordStage } from "./WordStage.tsx";

/** Pixels and bytes of a picture that an element of the page decodes itself: all of it lies in memory then. */
const MOST_PIXELS = 24_000_000;
const MOST_BYTES = 32 * 1024 * 1024;
/** Times that a small picture is enlarged to be seen. */
const MOST_ENLARGED = 4;

/** Is the picture shown from its own bytes, so that it moves and has all its pixels? What is damaged is drawn as far as it goes. */
const isShownItself = ({ format, condition, width, height, size }: Found): boolean =>
  (condition === "whole" || condition === "small copy") &&
  isBrowsersOwn(formatNamed(format).media) &&
  width !== null &&
  height !== null &&
  width * height <= MOST_PIXELS &&
  size <= MOST_BYTES;

/** A picture: fitted, or larger, up to its own pixels and beyond; turned, and moved under the pointer. */
export function ImageStage({ find }: { find: Found }) {
  const isItself = isShownItself(find);
  const drawn = usePreview(isItself ? null : find, 2048);
  const content = useContent(find, isItself);
  const [sight, setSight] = useState<Sight>(FITTING);
  const [isBroken, setBroken] = useState(false);
  /** Pixels of the screen across it when it is fitted; undefined: it is not there yet. */
  const [wide, setWide] = useState<number | undefined>(undefined);
  const isTurned = sight.turn % 180 !== 0;
  const box = useRef<HTMLDivElement>(null);
  const image = useRef<HTMLImageElement>(null);
  const grabbed = useRef<{ x: number; y: number } | null>(null);

  /** Pixels of the screen that a pixel of the picture takes when it is fitted. */
  const fitted = useCallback((): number => {
    const { naturalWidth = 0, naturalHeight = 0 } = image.current ?? {};
    const { clientWidth = 1, clientHeight = 1 } = box.current ?? {};
    const [width, height] = isTurned ? [naturalHeight, naturalWidth] : [naturalWidth, naturalHeight];
    return Math.min(MOST_ENLARGED, clientWidth / Math.max(1, width), clientHeight / Math.max(1, height));
  }, [isTurned]);
  const measure = useCallback(() => {
    const sides = image.current?.naturalWidth ?? 0;
    if (sides > 0) setWide(sides * fitted());
  }, [fitted]);
  // The room that it has changes when things come beside it.
  useEffect(() => {
    measure();
    if (!box.current) return;
    const watch = new ResizeObserver(measure);
    watch.observe(box.current);
    return () => watch.disconnect();
  }, [measure]);
  const zoomBy = (factor: number, at = { x: 0, y: 0 }) => setSight((now) => zoomed(now, now.zoom * factor, at));
  const toOwnPixels = () => setSight((now) => zoomed(now, 1 / fitted(), { x: 0, y: 0 }));

  useHotkeys(["shift+plus", "plus", "equal", "minus", "0", "1", "r", "shift+r"], (event) => {
    event.preventDefault();
    if (event.key === "-") zoomBy(1 / 1.25);
    else if (event.key === "0") setSight(FITTING);
    else if (event.key === "1") toOwnPixels();
    else if (event.key.toLowerCase() === "r") setSight((now) => turned(now, event.shiftKey ? -90 : 90));
    else zoomBy(1.25);
  });

  const shown = isItself ? content : drawn;
  const address = shown && "address" in shown ? shown.address : null;
  const word = shown && "word" in shown ? shown.word : null;
  if (word || shown === null || isBroken) return <WordStage find={find} word={word ?? "What is left of it cannot be drawn."} />;
  const wheel = (event: WheelEvent) => {
    const bounds = event.currentTarget.getBoundingClientRect();
    const at = { x: event.clientX - bounds.left - bounds.width / 2, y: event.clientY - bounds.top - bounds.height / 2 };
    zoomBy(event.deltaY < 0 ? 1.2 : 1 / 1.2, at);
  };
  const drag = (event: PointerEvent) => {
    if (!grabbed.current) return;
    const { x, y } = grabbed.current;
    grabbed.current = { x: event.clientX, y: event.clientY };
    setSight((now) => ({ ...now, x: now.x + event.clientX - x, y: now.y + event.clientY - y }));
  };
  return (
    <div className="relative size-full">
      <div
        ref={box}
        className={`flex size-full touch-none items-center justify-center overflow-hidden ${sight.zoom > 1 ? "cursor-grab" : ""}`}
        onWheel={wheel}
        onPointerDown={(event) => {
          grabbed.current = { x: event.clientX, y: event.clientY };
          event.currentTarget.setPointerCapture(event.pointerId);
        }}
        onPointerMove={drag}
        onPointerUp={() => {
          grabbed.current = null;
        }}
      >
        {address ? (
          <div
            className="relative shrink-0"
            style={{ transform: `translate(${sight.x}px, ${sight.y}px) rotate(${sight.turn}deg) scale(${sight.zoom})` }}
          >
            <img
              ref={image}
              src={address}
              alt={nameOf(find)}
              draggable={false}
              className={`block max-w-none select-none ${wide === undefined ? "opacity-0" : ""}`}
              style={{ width: wide, imageRendering: sight.zoom * fitted() > 2 ? "pixelated" : undefined }}
              onLoad={measure}
              onError={() => setBroken(true)}
            />
            <LostPart find={find} />
          </div>
        ) : (
          <span className="loading loading-dots" role="status" aria-label="It is being drawn" />
        )}
      </div>
      <div className="absolute right-2 bottom-2 flex gap-1.5" role="toolbar" aria-label="How it is seen">
        <button type="button" className="button h-8 px-2" aria-label="Turn to the left" onClick={() => setSight(turned(sight, -90))}>
          <RotateCcw className="size-4" aria-hidden="true" />
        </button>
        <button type="button" className="button h-8 px-2" aria-label="Turn to the right" onClick={() => setSight(turned(sight, 90))}>
          <RotateCw className="size-4" aria-hidden="true" />
        </button>
        <button type="button" className="button h-8 px-2" aria-label="Smaller" onClick={() => zoomBy(1 / 1.25)}>
          <ZoomOut className="size-4" aria-hidden="true" />
        </button>
        <button type="button" className="button h-8 px-2" aria-label="Larger" onClick={() => zoomBy(1.25)}>
          <ZoomIn className="size-4" aria-hidden="true" />
        </button>
        <button type="button" className="button h-8 px-2" onClick={toOwnPixels}>
          1 : 1
        </button>
        <button type="button" className="button h-8 px-2" onClick={() => setSight(FITTING)}>
          Fit
        </button>
      </div>
    </div>
  );
}
