/** How a phone stands, in the words that the bench shows. */
export const PHONE_STATES = [
  "nothing attached",
  "attached, not answering",
  "waiting for the person to allow",
  "offline",
  "ready",
  "in recovery",
  "in bootloader",
  "in download mode",
] as const;
export type PhoneState = (typeof PHONE_STATES)[number];

/** Its debugging daemon is there: it asks its owner, or lets this computer in. */
export const answersDebugging = (state: PhoneState): boolean => state === "ready" || state === "waiting for the person to allow";

/** Storage of it can be read now, shared or raw. */
export const isReadable = (state: PhoneState | undefined): boolean => state === "ready" || state === "in recovery";

/** Seconds of waiting after which one says what usually is wrong. */
export const PATIENCE = 10;

/** What to look at, by state: the likeliest first. Common practice, no source. */
export const USUAL_TROUBLE: Readonly<Record<PhoneState, readonly string[]>> = {
  "nothing attached": [
    "The cable only charges: take one that carries data.",
    "The cable runs through a hub: plug it straight into the computer.",
    "The phone is off, or its socket is dirty or worn.",
  ],
  "attached, not answering": [
    "It does not say why. USB debugging may be off: look in Developer options.",
    "The USB mode is “charging only”: choose “file transfer” on the phone.",
    "Another program on this computer holds the phone: end it.",
  ],
  "waiting for the person to allow": [
    "The lock screen hides the question: unlock the phone.",
    "The question was closed: ask again.",
    "The screen is dead: a mouse, or a key that the phone allowed before, gets further.",
  ],
  offline: ["The phone is still starting: wait a moment.", "Pull the cable, wait five seconds, plug it in again."],
  ready: [],
  "in recovery": [],
  "in bootloader": [],
  "in download mode": [],
};
