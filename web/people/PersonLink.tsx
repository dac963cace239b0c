import { UserRound } from "lucide-react";
import { Link } from "react-router";
import { useJob } from "../session/use-session.ts";

/** The way to all that is known of whoever has an address. */
export function PersonLink({ address }: { address: string }) {
  const { id } = useJob();
  return (
    <Link to={`/ticket/${id}/finds/person/${encodeURIComponent(address)}`} className="button">
      <UserRound className="size-4" aria-hidden="true" /> Everything of this person
    </Link>
  );
}
