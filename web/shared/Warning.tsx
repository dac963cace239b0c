import type { ReactNode } from "react";

/** Something that went wrong or must be known now, in plain words. */
export function Warning({
  children,
  className = "",
  role = "alert",
}: {
  children: ReactNode;
  className?: string;
  role?: "alert" | "status";
}) {
  return (
    <p role={role} className={`rounded-field bg-warning px-3 py-2 text-warning-content ${className}`}>
      {children}
    </p>
  );
}
