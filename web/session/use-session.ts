import { createContext, useContext } from "react";
import { useStore } from "zustand";
import type { Job } from "../kept/job.ts";
import type { Session } from "./session.ts";
import type { MediumState, SessionState } from "./session-state.ts";

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

/** The medium in hand; null where the ticket has none. */
export const useMediumInHand = (): MediumState | null =>
  useSessionState(({ media, inHand }) => media.find(({ medium }) => medium.id === inHand) ?? null);

/** All media of the ticket. */
export const useMedia = (): readonly MediumState[] => useSessionState((state) => state.media);

/** One medium of the ticket, by its number. */
export const useMedium = (id: number | null): MediumState | null =>
  useSessionState(({ media }) => media.find(({ medium }) => medium.id === id) ?? null);
