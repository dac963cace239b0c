import { openPanel, usePanel } from "./practice.ts";

export function PracticeButton() {
  const open = usePanel((state) => state.open);
  return (
    <button type="button" className="button" aria-expanded={open} onClick={openPanel}>
      Practice kit
    </button>
  );
}
