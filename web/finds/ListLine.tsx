import { timeOf } from "../../core/finds/find.ts";
import { StateAndCondition } from "../shared/Marks.tsx";
import { bytes, moment, nameOf } from "../shared/words.ts";
import { ChooseMark } from "./ChooseMark.tsx";
import type { ItemProps } from "./Tile.tsx";

/** One find as a line of the list. */
export function ListLine({ find, looked, chosen, onLook, onChoose, onOpen }: ItemProps) {
  const time = timeOf(find);
  return (
    <div
      id={`find-${find.key}`}
      role="option"
      aria-selected={chosen}
      aria-label={`${nameOf(find)}, ${find.state}, ${find.condition}`}
      tabIndex={-1}
      className={`grid h-9 w-full cursor-pointer grid-cols-[1.75rem_minmax(0,2fr)_minmax(0,2fr)_5.5rem_7.5rem_5rem_12rem] items-center gap-3 rounded-field border-b border-line pr-2 text-sm ${looked ? "bg-glow" : "bg-base-100"}`}
      onClick={onLook}
      onDoubleClick={onOpen}
      onKeyDown={() => {}}
    >
      <ChooseMark
        onLook={onLook}
        onChoose={onChoose}
        className={`size-7 items-center justify-center rounded-l-field ${chosen ? "bg-accent text-accent-content" : "text-line"}`}
      />
      <span className="truncate font-semibold">{nameOf(find)}</span>
      <span className="truncate text-second">{find.path?.slice(0, find.path.lastIndexOf("/") + 1) ?? "folder not known"}</span>
      <StateAndCondition find={find} />
      <span className="text-right">{bytes(find.size)}</span>
      <span className="truncate text-right text-second">{time === null ? "day not known" : moment(time)}</span>
    </div>
  );
}
