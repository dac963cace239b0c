import { Pause, Play, Volume2, VolumeX } from "lucide-react";
import { useRef, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import type { Extent } from "../../core/bytes/extents.ts";
import { clock } from "../shared/clock.ts";
import { nameOf } from "../shared/words.ts";
import type { Found } from "../worker/finds/protocol.ts";
import { useAnswer } from "./use-answer.ts";
import { useContent } from "./use-content.ts";
import { WordStage } from "./WordStage.tsx";

const SPEEDS = [0.5, 1, 1.5, 2];
/** Seconds that an arrow moves by. */
const STEP = 5;

/** A film or a sound, played from where it lies. `isInHand`: of several side by side it is the one that keys speak of. */
export function PlayerStage({ find, isInHand }: { find: Found; isInHand: boolean }) {
  const content = useContent(find);
  const player = useRef<HTMLVideoElement>(null);
  const [at, setAt] = useState(0);
  const [length, setLength] = useState(0);
  const [isPlaying, setPlaying] = useState(false);
  const [speed, setSpeed] = useState(1);
  const [volume, setVolume] = useState(1);
  const [broke, setBroke] = useState<string | null>(null);

  const toggle = () => {
    const one = player.current;
    if (!one) return;
    if (one.paused) void one.play().catch((cause: Error) => setBroke(cause.message));
    else one.pause();
  };
  const seek = (to: number) => {
    if (player.current) player.current.currentTime = Math.max(0, Math.min(length, to));
  };
  const changeVolume = (to: number) => {
    setVolume(to);
    if (player.current) player.current.volume = to;
  };
  const toggleSound = () => changeVolume(volume > 0 ? 0 : 1);
  useHotkeys(
    ["k", "right", "left", "m"],
    (event) => {
      const { key } = event;
      // The volume and the speed have arrows of their own.
      if (key !== "k" && key !== "m" && (event.target as HTMLElement).closest("[data-own-arrows]")) return;
      event.preventDefault();
      if (key === "k") toggle();
      else if (key === "m") toggleSound();
      else seek(at + (key === "ArrowRight" ? STEP : -STEP));
    },
    { enableOnFormTags: true, enabled: isInHand },
  );
  if (content && "word" in content) return <WordStage find={find} word={content.word} />;
  if (broke) return <NotPlayed find={find} because={broke} />;
  const isSound = find.kind === "audio";
  return (
    <div className="@container flex size-full flex-col">
      <div className="relative min-h-0 flex-1">
        {/* biome-ignore lint/a11y/useMediaCaption: recordings of people have no captions */}
        <video
          ref={player}
          src={content?.address}
          className={`size-full object-contain ${isSound ? "opacity-0" : ""}`}
          aria-label={nameOf(find)}
          preload="metadata"
          onClick={toggle}
          onDurationChange={({ currentTarget }) => setLength(Number.isFinite(currentTarget.duration) ? currentTarget.duration : 0)}
          onTimeUpdate={({ currentTarget }) => setAt(currentTarget.currentTime)}
          onPlay={() => setPlaying(true)}
          onPause={() => setPlaying(false)}
          onError={({ currentTarget }) => setBroke(whyNot(currentTarget.error, find, at))}
        />
        {isSound && (
          <div className="pointer-events-none absolute inset-0 flex flex-col items-center justify-center gap-2">
            <strong className="text-2xl uppercase">{find.format}</strong>
            <span className="font-mono text-3xl">{clock(at)}</span>
          </div>
        )}
      </div>
      <Unheard find={find} />
      <div className="flex items-center gap-3 bg-base-100 px-3 py-2" role="group" aria-label="Player">
        <button type="button" className="button button-main px-2" onClick={toggle} aria-label={isPlaying ? "Pause" : "Play"}>
          {isPlaying ? <Pause className="size-5" aria-hidden="true" /> : <Play className="size-5" aria-hidden="true" />}
        </button>
        <kbd className="key hidden @2xl:inline">K</kbd>
        <span className="font-mono text-sm whitespace-nowrap" role="timer">
          {clock(at)} / {length > 0 ? clock(length) : "length not known"}
        </span>
        <span className="relative min-w-16 flex-1">
          <input
            type="range"
            className="range range-xs w-full"
            min={0}
            max={Math.max(0.01, length)}
            step={0.01}
            value={Math.min(at, length)}
            aria-label="Place in it"
            aria-valuetext={clock(at)}
            onChange={({ currentTarget }) => seek(Number(currentTarget.value))}
          />
          <Holes lost={content?.lost ?? []} size={Math.max(1, find.size)} />
        </span>
        <select
          className="select select-sm w-20"
          aria-label="Speed"
          data-own-arrows
          value={speed}
          onChange={({ currentTarget }) => {
            const next = Number(currentTarget.value);
            setSpeed(next);
            if (player.current) player.current.playbackRate = next;
          }}
        >
          {SPEEDS.map((one) => (
            <option key={one} value={one}>
              {one} ×
            </option>
          ))}
        </select>
        <button type="button" className="button px-2" aria-label={volume > 0 ? "No sound" : "Sound"} onClick={toggleSound}>
          {volume > 0 ? <Volume2 className="size-4" aria-hidden="true" /> : <VolumeX className="size-4" aria-hidden="true" />}
        </button>
        <input
          type="range"
          className="range range-xs hidden w-24 @2xl:block"
          data-own-arrows
          min={0}
          max={1}
          step={0.05}
          value={volume}
          aria-label="Volume"
          onChange={({ currentTarget }) => changeVolume(Number(currentTarget.value))}
        />
      </div>
    </div>
  );
}

/** What it is coded in, where that can be told, and why it is not played. */
function NotPlayed({ find, because }: { find: Found; because: string }) {
  const codecs = useAnswer((looking) => looking.codecs(find), [find.key]) ?? [];
  const coded = codecs.length > 0 ? ` It is coded in ${codecs.map(({ words }) => words).join(" and ")}.` : "";
  return <WordStage find={find} word={`This browser does not play it: ${because}${coded}`} />;
}

/** A film that is played without its sound says so. */
function Unheard({ find }: { find: Found }) {
  const codecs = useAnswer((looking) => looking.codecs(find), [find.key]) ?? [];
  const unheard = codecs.filter(({ isSound, isDecoded }) => isSound && !isDecoded);
  if (find.kind !== "video" || unheard.length === 0) return null;
  return (
    <p className="bg-base-100 px-3 pt-1.5 text-sm text-second" role="note">
      Played without its sound: that is coded in {unheard.map(({ words }) => words).join(" and ")}, which browsers do not play. It is handed
      over with it.
    </p>
  );
}

/** Holes in a recording, where they lie in its bytes: about where they are heard and seen. */
function Holes({ lost, size }: { lost: readonly Extent[]; size: number }) {
  return lost
    .slice(0, MOST_HOLES)
    .map(({ offset, length }) => (
      <span
        key={offset}
        className="hatched pointer-events-none absolute -bottom-1 h-1.5 rounded-sm border border-error"
        style={{ left: `${(offset / size) * 100}%`, width: `max(4px, ${(length / size) * 100}%)` }}
        title="this part is lost"
      />
    ));
}
const MOST_HOLES = 200;

/** MediaError (HTML §4.8.11.1) in plain words. */
function whyNot(error: MediaError | null, { format }: Found, at: number): string {
  if (error?.code === MediaError.MEDIA_ERR_SRC_NOT_SUPPORTED)
    return `what this ${format.toUpperCase()} is coded in is not among what browsers play, or its beginning is broken.`;
  return at > 0 ? `it breaks off at ${clock(at)}.` : "it breaks off at its beginning.";
}
