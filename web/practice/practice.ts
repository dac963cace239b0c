import { z } from "zod";
import { useStore } from "zustand";
import { createStore } from "zustand/vanilla";
import { ModelCard, type PhoneKey } from "../../core/phones/model-cards.ts";
import { nextWait } from "../shared/waits.ts";

/** A practice phone as it lies on the bench: what eyes see of it, and no computer. */
const PracticePhone = z.object({
  id: z.string(),
  state: z.string(),
  story: z.string(),
  card: ModelCard,
  serial: z.string(),
  cable: z.boolean(),
  mouse: z.boolean(),
  battery: z.number(),
  usb: z.string(),
  screen: z.object({
    lit: z.boolean(),
    title: z.string(),
    lines: z.array(z.string()),
    buttons: z.array(z.object({ id: z.string(), label: z.string() })),
    answers: z.boolean(),
  }),
  things: z.array(z.object({ name: z.string(), about: z.string() })),
});
export type PracticePhone = z.infer<typeof PracticePhone>;
const Kit = z.array(PracticePhone);

export type Hand =
  | { readonly do: "tap"; readonly button: string }
  | { readonly do: "hold"; readonly keys: readonly PhoneKey[] }
  | { readonly do: "cable" | "mouse"; readonly in: boolean }
  | { readonly do: "charge" | "reset" };

/** Milliseconds between looks while the panel is open. */
const LOOK_EVERY = 400;

interface PanelState {
  readonly open: boolean;
  readonly chosen: string | null;
  readonly kit: readonly PracticePhone[];
}
const panel = createStore<PanelState>(() => ({ open: false, chosen: null, kit: [] }));
export const usePanel = <T>(select: (state: PanelState) => T): T => useStore(panel, select);

/** Counts what hands did: an answer from before the last of it is old, and not shown. */
let hands = 0;

/** @returns whether the server answered */
async function look(): Promise<boolean> {
  const asked = hands;
  try {
    const kit = Kit.parse(await (await fetch("/api/practice")).json());
    if (asked === hands) panel.setState({ kit });
    return true;
  } catch {
    // Without the server the kit lies as it was seen last.
    return false;
  }
}

let asked = false;
/** Asks once whether there is a kit at all. */
export function askKit(): void {
  if (asked) return;
  asked = true;
  void look();
}

let looking: ReturnType<typeof setTimeout> | null = null;
async function lookOn(unanswered: number): Promise<void> {
  const answered = await look();
  if (!panel.getState().open) return;
  const failed = answered ? 0 : unanswered + 1;
  looking = setTimeout(() => void lookOn(failed), nextWait(LOOK_EVERY, failed));
}
export function openPanel(): void {
  if (panel.getState().open) return;
  panel.setState({ open: true });
  void lookOn(0);
}
export function closePanel(): void {
  panel.setState({ open: false });
  if (looking !== null) clearTimeout(looking);
  looking = null;
}
export const choosePhone = (chosen: string | null): void => panel.setState({ chosen });

/** Does something to a practice phone, as a hand would. */
export async function hand(id: string, what: Hand): Promise<void> {
  const mine = ++hands;
  const answer = await fetch(`/api/practice/${id}`, { method: "POST", body: JSON.stringify(what) });
  const kit = answer.ok ? Kit.parse(await answer.json()) : null;
  if (kit && mine === hands) panel.setState({ kit });
}
