import { Check } from "lucide-react";

/** The tick of a find, for the mouse. By key and by voice the find itself is chosen, so this is no control of its own. */
export function ChooseMark({ onLook, onChoose, className }: { onLook: () => void; onChoose: (() => void) | null; className: string }) {
  if (!onChoose) return null;
  return (
    <span
      aria-hidden="true"
      className={`flex cursor-pointer ${className}`}
      onClick={(event) => {
        event.stopPropagation();
        onLook();
        onChoose();
      }}
      onKeyDown={() => {}}
    >
      <Check className="size-4" strokeWidth={3} />
    </span>
  );
}
