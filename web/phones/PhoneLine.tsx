import type { PhoneView } from "../../core/phones/phone-view.ts";
import { reportWords, stateWords } from "./state-words.ts";

/** How the phone of this serial stands now, and what it is. Null: it is not attached. */
export function PhoneLine({ phone, serial }: { phone: PhoneView | null; serial: string }) {
  return (
    <p>
      <strong role="status">{phone ? stateWords(phone) : "Nothing attached"}</strong>{" "}
      <span className="text-[13.5px] text-second">{phone ? reportWords(phone) : `Plug ${serial} in: it shows up by itself.`}</span>
    </p>
  );
}
