import { Ban, PhoneIncoming, PhoneMissed, PhoneOff, PhoneOutgoing, Voicemail } from "lucide-react";

/** How a call went, and its mark. */
export const SIDES = {
  in: ["came in", PhoneIncoming],
  out: ["went out", PhoneOutgoing],
  missed: ["missed", PhoneMissed],
  declined: ["declined", PhoneOff],
  blocked: ["blocked", Ban],
  voicemail: ["voicemail", Voicemail],
} as const;
