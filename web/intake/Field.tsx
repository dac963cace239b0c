import type { ReactNode } from "react";

/** How a field of the intake looks. */
export const INPUT = "h-9 w-full min-w-0 rounded-field border border-line bg-base-100 px-2.5 text-ink";

/** A field under its label. */
export function Field({ label, children, className = "" }: { label: string; children: ReactNode; className?: string }) {
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: the control comes as the child
    <label className={`block text-sm font-bold ${className}`}>
      <span className="mb-1 block">{label}</span>
      <span className="block font-normal">{children}</span>
    </label>
  );
}
