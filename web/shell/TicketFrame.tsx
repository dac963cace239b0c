import { Link, Outlet, useParams } from "react-router";
import { useStore } from "zustand";
import type { Session } from "../session/session.ts";
import { sessionOf } from "../session/sessions.ts";
import { SessionContext } from "../session/use-session.ts";
import { StorageNotice } from "./StorageNotice.tsx";
import { TicketStrip } from "./TicketStrip.tsx";

/** Every screen of a job stands under its strip. */
export function TicketFrame() {
  const { id } = useParams();
  const session = sessionOf(Number(id));
  return (
    <SessionContext value={session}>
      <Loaded session={session} />
    </SessionContext>
  );
}

/** Said where the browser takes nothing more: what stands on the screen is not kept. */
function Unkept({ session }: { session: Session }) {
  const unkept = useStore(session.store, (state) => state.unkept);
  if (unkept === null) return null;
  return (
    <p className="border-b border-line bg-warning px-5 py-2.5 text-warning-content" role="alert">
      <strong>{unkept}</strong> What was changed last is shown, but not kept yet.
    </p>
  );
}

function Loaded({ session }: { session: Session }) {
  const job = useStore(session.store, (state) => state.job);
  const problem = useStore(session.store, (state) => state.problem);
  if (job === "loading")
    return (
      <p className="p-10 text-second" role="status">
        Opening the ticket…
      </p>
    );
  if (job === null)
    return (
      <main className="p-10">
        <h1 className="text-xl font-bold">{problem ?? "There is no such ticket in this browser."}</h1>
        <Link to="/" className="button mt-4">
          To the bench
        </Link>
      </main>
    );
  return (
    <div className="flex h-full min-w-0 flex-col">
      <TicketStrip />
      <StorageNotice />
      <Unkept session={session} />
      <Outlet />
    </div>
  );
}
