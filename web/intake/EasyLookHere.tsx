import { useState } from "react";
import type { EasyLook } from "../../core/phones/adb/easy-look.ts";
import { phoneDesk, usePhone } from "../phones/phones.ts";
import { useJob } from "../session/use-session.ts";
import { whyHeld } from "../session/why-held.ts";
import { DAY, datedDay, plural } from "../shared/words.ts";

const SHOWN = 5;

/** The easy places, looked at on the attached phone by Jubar itself. */
export function EasyLookHere() {
  const { intake, facts, phone: serial } = useJob();
  const phone = usePhone(serial);
  const [look, setLook] = useState<EasyLook | "looking" | null>(null);
  if (phone?.state !== "ready" || whyHeld(intake, facts)) return null;
  const { id } = phone;
  return (
    <div className="mt-2 border-t border-dashed border-line pt-2" role="status">
      {look === null || look === "looking" ? (
        <button
          type="button"
          className="button button-lamp"
          disabled={look === "looking"}
          onClick={() => {
            setLook("looking");
            void phoneDesk().easyLook(id).then(setLook);
          }}
        >
          {look === "looking" ? "Looking…" : "Look on the attached phone now"}
        </button>
      ) : (
        <ul className="text-[13.5px]">
          <li>
            <strong>{plural(look.binned.length, "thing")} in its bins</strong>
            {look.binned.slice(0, SHOWN).map(({ name, lastDay }) => (
              <span key={name} className="flex justify-between gap-4">
                <span className="truncate">{name}</span>
                <span className="whitespace-nowrap">
                  {lastDay === null
                    ? "no last day told"
                    : `${lastDay < Date.now() ? "its last day was" : "last day"} ${datedDay(Math.floor(lastDay / DAY))}`}
                </span>
              </span>
            ))}
            {look.binned.length > SHOWN && <span>and {look.binned.length - SHOWN} more</span>}
          </li>
          <li className="mt-1">
            {look.hidden === null ? (
              "The phone does not tell its contacts to the debugging shell."
            ) : (
              <>
                <strong>{`${look.hidden.length} of ${plural(look.contacts ?? 0, "contact")} only hidden`}</strong>
                {look.hidden.length > 0 && `: ${look.hidden.slice(0, SHOWN).join(", ")}`}
              </>
            )}
          </li>
        </ul>
      )}
    </div>
  );
}
