import { useLiveQuery } from "dexie-react-hooks";
import { Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { whyUnkept } from "../kept/no-room.ts";
import { removeJob } from "../kept/removal.ts";
import { forgetSession } from "../session/sessions.ts";
import { ask, say } from "../shared/ask.ts";
import { touched } from "../shared/words.ts";
import { isDone, type KeptTicket, loadTickets, matches, standing, wantsOf } from "./tickets.ts";

export function JobsTable({ words, onNew }: { words: string; onNew: () => void }) {
  const tickets = useLiveQuery(loadTickets);
  const [shown, setShown] = useState<"open" | "done">("open");
  const found = (tickets ?? []).filter((ticket) => matches(ticket, words));
  const rows = found.filter((ticket) => isDone(ticket) === (shown === "done"));

  return (
    <section className="flex min-h-72 flex-1 flex-col gap-3 p-5" aria-label="Jobs">
      <div className="flex items-center gap-2">
        <h2 className="mr-1 text-lg font-bold">Jobs</h2>
        {(["open", "done"] as const).map((which) => (
          <button key={which} type="button" className="chip" aria-pressed={shown === which} onClick={() => setShown(which)}>
            {which} <span className="font-mono">{found.filter((ticket) => isDone(ticket) === (which === "done")).length}</span>
          </button>
        ))}
        <span className="ml-auto text-sm text-second">last touched first</span>
        <button type="button" className="button button-main" onClick={onNew}>
          <Plus className="size-4" aria-hidden="true" /> New ticket
        </button>
      </div>
      <div className="panel min-h-24 flex-1 overflow-auto">
        <table className="w-full">
          <thead className="sticky top-0 bg-base-100 text-left text-[13px] text-second">
            <tr className="border-b border-line [&>th]:px-3 [&>th]:py-2">
              <th>Ticket</th>
              <th>Customer</th>
              <th>Device</th>
              <th>Wants</th>
              <th>Where it stands</th>
              <th className="text-right">Touched</th>
              <th>
                <span className="sr-only">Remove</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((ticket) => (
              <TicketRow key={ticket.job.id} ticket={ticket} />
            ))}
          </tbody>
        </table>
        {tickets && rows.length === 0 && (
          <p className="p-6 text-second">
            {words
              ? `No ${shown} job speaks of “${words}”.`
              : shown === "open"
                ? "No open job. Begin with a new ticket, or drop a disk image above."
                : "No job was handed over yet."}
          </p>
        )}
      </div>
    </section>
  );
}

/** Forgets a ticket where that is really wanted. */
async function forget({ id, number }: KeptTicket["job"]): Promise<void> {
  const words = "All that was found in it is forgotten with it. The storage itself is not touched.";
  if (!(await ask(`Forget ticket ${number}?`, words, "Forget it"))) return;
  try {
    await removeJob(id);
    forgetSession(id);
  } catch (cause) {
    await say(`Ticket ${number} could not be forgotten`, whyUnkept(cause));
  }
}

/** One ticket as a line: whose it is, what it is about, where it stands. */
function TicketRow({ ticket }: { ticket: KeptTicket }) {
  const navigate = useNavigate();
  const { job, media } = ticket;
  const { to, station, words: state, part } = standing(ticket);
  const open = () => navigate(`/ticket/${job.id}/${to}`);
  return (
    <tr className="cursor-pointer border-b border-line hover:bg-glow [&>td]:px-3 [&>td]:py-2.5" onClick={open}>
      <td>
        <button type="button" className="rounded font-mono font-bold underline-offset-2 hover:underline" onClick={open}>
          {job.number}
        </button>
      </td>
      <td className="font-bold">{job.customer || "not noted yet"}</td>
      <td>{job.device || media[0]?.name}</td>
      <td className="max-w-56 truncate">{wantsOf(job)}</td>
      <td>
        <span className="mr-2 inline-block h-2 w-14 overflow-hidden rounded-full bg-base-300 align-middle" aria-hidden="true">
          <span className="block h-full bg-primary" style={{ width: `${part * 100}%` }} />
        </span>
        <strong>{station}</strong> <span className="text-second">· {state}</span>
      </td>
      <td className="text-right whitespace-nowrap text-second">{touched(job.touchedAt)}</td>
      <td className="w-10">
        <button
          type="button"
          className="button h-8 w-8 px-0"
          aria-label={`Remove ticket ${job.number}`}
          title="Forget this job; the storage is not touched"
          onClick={(event) => {
            event.stopPropagation();
            void forget(job);
          }}
        >
          <Trash2 className="size-4" aria-hidden="true" />
        </button>
      </td>
    </tr>
  );
}
