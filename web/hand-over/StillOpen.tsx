import { TriangleAlert } from "lucide-react";
import { Link } from "react-router";
import { stillOpen } from "../../core/phones/ledger.ts";
import { useJob } from "../session/use-session.ts";

/** Before the phone is given out: what was changed on it and is not taken back. */
export function StillOpen() {
  const open = stillOpen(useJob().ledger);
  if (open.length === 0) return null;
  return (
    <p role="alert" className="flex items-center gap-3 rounded-box bg-warning px-4 py-2.5 text-warning-content">
      <TriangleAlert className="size-5 shrink-0" aria-hidden="true" />
      <span className="flex-1">
        <strong>Not taken back on the phone yet:</strong> {open.map(({ change }) => change).join(", ")}.
      </span>
      <Link to="../logbook" className="button button-lamp">
        To the logbook
      </Link>
    </p>
  );
}
