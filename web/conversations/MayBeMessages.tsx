import { Link } from "react-router";
import { findKey } from "../../core/finds/find-key.ts";
import { useProposals } from "../people/use-proposals.ts";
import { useJob } from "../session/use-session.ts";
import { plural } from "../shared/words.ts";

/** Shown by name; of more than these it is said how many. */
const MOST_NAMED = 3;

/** Databases that may be messengers, and are not surely enough for their messages to be read: somebody is to look at them. */
export function MayBeMessages() {
  const { id } = useJob();
  const all = useProposals();
  if (all.length === 0) return null;
  const named = all.slice(0, MOST_NAMED);
  return (
    <section className="flex items-center gap-2 rounded-box bg-glow px-4 py-2" aria-label="May be messages">
      <p className="min-w-0 truncate">
        <strong>{plural(all.length, "database")} may hold messages</strong> that are not shown: it is not sure enough how they read. Look,
        and say.
      </p>
      <span className="ml-auto" />
      {named.map(({ medium, find, table, sureness }) => (
        <Link
          key={`${medium} ${find}`}
          to={`/ticket/${id}/meaning/${encodeURIComponent(findKey(medium, find))}`}
          className="button h-8 border-dashed whitespace-nowrap"
        >
          {table} <span className="font-mono text-sm font-normal text-second">{Math.round(sureness * 100)} %</span>
        </Link>
      ))}
      {all.length > MOST_NAMED && <span className="whitespace-nowrap text-second">and {all.length - MOST_NAMED} more</span>}
    </section>
  );
}
