import { useEffect } from "react";
import { askKit, openPanel, usePanel } from "./practice.ts";

/** Opens the practice kit, where the server was started with one: real work has none on its bench. */
export function PracticeButton() {
  const open = usePanel((state) => state.open);
  const there = usePanel(({ kit }) => kit.length > 0);
  useEffect(askKit, []);
  if (!there) return null;
  return (
    <button type="button" className="button" aria-expanded={open} onClick={openPanel}>
      Practice kit
    </button>
  );
}
