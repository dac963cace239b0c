import { UserRound } from "lucide-react";
import { Link } from "react-router";
import { useJob } from "../session/use-session.ts";

/** Where all that is known of whoever has an address is shown. */
export const personPath = (job: number, address: string): string => `/ticket/${job}/finds/person/${encodeURIComponent(address)}`;

/** The way to all that is known of whoever has an address. */
export function PersonLink({ address }: { address: string }) {
  const { id } = useJob();
  return (
    <Link to={personPath(id, address)} className="button">
      <UserRound className="size-4" aria-hidden="true" /> Everything of this person
    </Link>
  );
}
