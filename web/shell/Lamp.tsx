/** The bench lamp: the only mark we have. */
export function Lamp({ className = "size-8" }: { className?: string }) {
  return (
    <svg viewBox="0 0 32 32" className={className} aria-hidden="true">
      <path d="M5 6 16 2v10L5 9z" fill="currentColor" />
      <path d="M16 4l13 4-9 8z" fill="var(--color-accent)" />
      <path d="M15 11v16M8 28h16" stroke="currentColor" strokeWidth="3" fill="none" />
    </svg>
  );
}
