import { createContext, useContext } from "react";
import { useStore } from "zustand";
import type { Job } from "../kept/job.ts";
import type { Session, SessionState } from "./session.ts";

export const SessionContext = createContext<Session | null>(null);

export function useSession(): Session {
  const session = useContext(SessionContext);
  if (!session) throw new Error("outside of a ticket");
  return session;
}

export const useSessionState = <T>(select: (state: SessionState) => T): T => useStore(useSession().store, select);

/** The job of the ticket. The frame shows no screen before it is loaded. */
export function useJob(): Job {
  const job = useSessionState((state) => state.job);
  if (!job || job === "loading") throw new Error("no job yet");
  return job;
}
