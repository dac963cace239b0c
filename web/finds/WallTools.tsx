import { ArrowDownUp, LayoutGrid, List } from "lucide-react";
import { useRef } from "react";
import { useStore } from "zustand";
import type { Query } from "../../core/finds/find-query.ts";
import { useSession, useSessionState } from "../session/use-session.ts";
import { TILE_WIDTH, wallLook } from "./wall-look.ts";

const SORTS: Record<Query["sort"], string> = {
  newest: "newest first",
  oldest: "oldest first",
  name: "by name",
  largest: "largest first",
  longest: "longest first",
  place: "as they lie",
};
const GROUPS: Record<Query["group"], string> = {
  day: "by day",
  folder: "by folder",
  camera: "by camera",
  kind: "by kind",
  nothing: "no groups",
};

/** How the finds are laid out: order, groups, size of the tiles; wall or list. */
export function WallTools() {
  const { look } = useStore(wallLook);
  return (
    <div className="ml-auto flex items-center gap-2" role="group" aria-label="Layout">
      <Layout />
      <button
        type="button"
        className="button h-8 w-8 px-0"
        aria-label={look === "wall" ? "Show as a list" : "Show as a wall"}
        title={look === "wall" ? "as a list" : "as a wall"}
        onClick={() => wallLook.setState({ look: look === "wall" ? "list" : "wall" })}
      >
        {look === "wall" ? <List className="size-4" aria-hidden="true" /> : <LayoutGrid className="size-4" aria-hidden="true" />}
      </button>
    </div>
  );
}

/** A button that says the order and opens all that can be changed of it. Closes where the focus leaves it, and by Escape. */
function Layout() {
  const session = useSession();
  const { sort, group } = useSessionState(({ query }) => query);
  const { look, tile } = useStore(wallLook);
  const box = useRef<HTMLDetailsElement>(null);
  const close = () => {
    if (box.current) box.current.open = false;
  };
  return (
    <details
      ref={box}
      className="relative"
      onBlur={({ relatedTarget }) => !box.current?.contains(relatedTarget) && close()}
      onKeyDown={(event) => {
        if (event.key !== "Escape" || !box.current?.open) return;
        event.stopPropagation();
        close();
        box.current.querySelector("summary")?.focus();
      }}
    >
      <summary className="button h-8 list-none" aria-label={`Order: ${SORTS[sort]}, ${GROUPS[group]}`}>
        <ArrowDownUp className="size-4" aria-hidden="true" /> {SORTS[sort]}
      </summary>
      <div className="panel absolute right-0 z-20 mt-1 flex w-80 flex-col gap-3 p-3.5 shadow-lg">
        <Choices name="Order" value={sort} words={SORTS} onChoose={(next) => void session.ask({ sort: next })} />
        <Choices name="Groups" value={group} words={GROUPS} onChoose={(next) => void session.ask({ group: next })} />
        {look === "wall" && (
          <label className="flex items-center gap-3 text-sm">
            <span className="w-24 text-second">size of the tiles</span>
            <input
              type="range"
              className="range range-xs flex-1"
              min={TILE_WIDTH.least}
              max={TILE_WIDTH.most}
              step={TILE_WIDTH.step}
              value={tile}
              onChange={({ currentTarget }) => wallLook.setState({ tile: Number(currentTarget.value) })}
            />
          </label>
        )}
      </div>
    </details>
  );
}

function Choices<T extends string>({
  name,
  value,
  words,
  onChoose,
}: {
  name: string;
  value: T;
  words: Record<T, string>;
  onChoose: (value: T) => void;
}) {
  return (
    <fieldset className="grid grid-cols-2 gap-x-3 gap-y-1 text-sm">
      <legend className="mb-1 text-second">{name}</legend>
      {(Object.keys(words) as T[]).map((one) => (
        <label key={one} className="flex cursor-pointer items-center gap-2 rounded px-1 py-0.5 hover:bg-base-200">
          <input type="radio" className="radio radio-xs" name={name} checked={value === one} onChange={() => onChoose(one)} />
          <span className={value === one ? "font-bold" : ""}>{words[one]}</span>
        </label>
      ))}
    </fieldset>
  );
}
