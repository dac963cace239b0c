import type { ReactNode } from "react";
import { count } from "../shared/words.ts";

interface Props {
  readonly isOn: boolean;
  /** Finds that it would leave. */
  readonly finds: number | undefined;
  readonly onToggle: () => void;
  readonly title?: string;
  readonly children: ReactNode;
}

/** A filter that is put on and off. */
export function FilterChip({ isOn, finds, onToggle, title, children }: Props) {
  return (
    <button type="button" className="chip" aria-pressed={isOn} title={title} onClick={onToggle}>
      {children} <span className="font-mono">{count(finds ?? 0)}</span>
    </button>
  );
}
