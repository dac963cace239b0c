import { ConditionCells, StateShape } from "../shared/Marks.tsx";
import { Picture } from "../shared/Picture.tsx";
import { nameOf } from "../shared/words.ts";
import type { Found } from "../worker/finds/protocol.ts";
import { ChooseMark } from "./ChooseMark.tsx";

export interface ItemProps {
  readonly find: Found;
  readonly looked: boolean;
  readonly chosen: boolean;
  readonly onLook: () => void;
  /** Null: it was chosen, and is there. */
  readonly onChoose: (() => void) | null;
  readonly onOpen: () => void;
}

/** One find on the wall: its picture, state and condition, and a folded corner when it is chosen. */
export function Tile({ find, looked, chosen, onLook, onChoose, onOpen }: ItemProps) {
  return (
    <div
      id={`find-${find.key}`}
      role="option"
      aria-selected={chosen}
      aria-label={`${nameOf(find)}, ${find.state}, ${find.condition}`}
      tabIndex={-1}
      className={`group relative size-full shrink-0 cursor-pointer overflow-hidden rounded-field ${chosen ? "ring-3 ring-accent" : ""} ${looked ? "outline-3 outline-offset-2 outline-ink" : ""}`}
      onClick={onLook}
      onDoubleClick={onOpen}
      onKeyDown={() => {}}
    >
      <Picture find={find} side={320} fit="cover" />
      <span className="absolute bottom-1.5 left-1.5 flex h-5 items-center gap-1 rounded-full bg-base-100 px-1.5 text-xs font-semibold whitespace-nowrap">
        <StateShape state={find.state} />
        {find.condition !== "whole" && <ConditionCells condition={find.condition} shown={find.shown} />}
        {find.condition}
        {find.places.length > 0 && ` · ${find.places.length + 1} places`}
      </span>
      <ChooseMark
        onLook={onLook}
        onChoose={onChoose}
        className={`absolute top-0 right-0 size-9 items-start justify-end p-1 [clip-path:polygon(0_0,100%_0,100%_100%)] ${chosen ? "bg-accent text-accent-content" : "bg-base-100/80 text-ink opacity-0 group-hover:opacity-100"}`}
      />
    </div>
  );
}
