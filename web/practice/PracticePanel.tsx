import { BatteryCharging, Download, Mouse, Plug, RotateCcw, Unplug, X } from "lucide-react";
import { useState } from "react";
import type { PhoneKey } from "../../core/phones/model-cards.ts";
import { KeyChips } from "../shared/KeyChips.tsx";
import { DrawnPhone } from "./DrawnPhone.tsx";
import { choosePhone, closePanel, hand, type PracticePhone, usePanel } from "./practice.ts";

/** The practice kit, docked right: plainly marked, so that nobody takes it for a customer's phone. */
export function PracticePanel() {
  const { open, kit, chosen } = usePanel((state) => state);
  if (!open) return null;
  const phone = kit.find(({ id }) => id === chosen) ?? kit[0];
  return (
    <aside
      className="flex w-80 shrink-0 flex-col gap-2.5 overflow-y-auto border-l-4 border-dashed border-band bg-base-300 p-3.5 print:hidden"
      aria-label="Practice kit"
    >
      <div className="flex items-center justify-between">
        <h2 className="font-bold">Practice kit</h2>
        <button type="button" className="button h-8 w-8 px-0" aria-label="Close the practice kit" onClick={closePanel}>
          <X className="size-4" aria-hidden="true" />
        </button>
      </div>
      {phone ? (
        <>
          <label className="text-[13px]">
            <span className="text-second">Not a real phone: one to learn on</span>
            <select
              className="mt-1 h-9 w-full rounded-field border border-line bg-base-100 px-2 text-sm"
              value={phone.id}
              onChange={(event) => choosePhone(event.target.value)}
            >
              {kit.map(({ id, card, state }) => (
                <option key={id} value={id}>
                  {card.model}: {state}
                </option>
              ))}
            </select>
          </label>
          <p className="text-[13.5px]">{phone.story}</p>
          <DrawnPhone phone={phone} />
          <Keys key={phone.id} phone={phone} />
          <Hands phone={phone} />
        </>
      ) : (
        <p className="text-second">This server was started without practice phones.</p>
      )}
    </aside>
  );
}

/** Keys are marked first, then held together. */
function Keys({ phone }: { phone: PracticePhone }) {
  const [marked, mark] = useState<readonly PhoneKey[]>([]);
  return (
    <fieldset className="flex flex-wrap justify-center gap-1.5">
      <legend className="sr-only">Keys of the practice phone</legend>
      <KeyChips home={phone.card.keysAt.home} marked={marked} onMark={mark} />
      <button
        type="button"
        className="button button-lamp h-7"
        disabled={marked.length === 0}
        onClick={() => {
          void hand(phone.id, { do: "hold", keys: marked });
          mark([]);
        }}
      >
        Hold
      </button>
    </fieldset>
  );
}

function Hands({ phone }: { phone: PracticePhone }) {
  const does = (what: Parameters<typeof hand>[1]) => () => void hand(phone.id, what);
  return (
    <>
      <div className="grid grid-cols-2 gap-1.5 [&>button]:px-1.5 [&>button]:text-[13px] [&_svg]:shrink-0">
        <button type="button" className="button" onClick={does({ do: "cable", in: !phone.cable })}>
          {phone.cable ? <Unplug className="size-4" aria-hidden="true" /> : <Plug className="size-4" aria-hidden="true" />}
          {phone.cable ? "Pull the cable" : "Plug the cable in"}
        </button>
        <button type="button" className="button" aria-pressed={phone.mouse} onClick={does({ do: "mouse", in: !phone.mouse })}>
          <Mouse className="size-4" aria-hidden="true" /> {phone.mouse ? "Take mouse off" : "Put a mouse on"}
        </button>
        <button type="button" className="button" onClick={does({ do: "charge" })}>
          <BatteryCharging className="size-4" aria-hidden="true" /> Charge an hour
        </button>
        <button type="button" className="button" onClick={does({ do: "reset" })}>
          <RotateCcw className="size-4" aria-hidden="true" /> Begin anew
        </button>
      </div>
      {phone.things.length > 0 && (
        <section aria-label="What lies beside it">
          <h3 className="text-[13px] text-second">Lies beside it</h3>
          {phone.things.map(({ name, about }) => (
            <a
              key={name}
              className="mt-1 flex items-center gap-2 rounded-field border border-line bg-base-100 px-2 py-1 text-[13px]"
              href={`/api/practice/${phone.id}/things/${name}`}
              download={name}
            >
              <Download className="size-4 shrink-0" aria-hidden="true" />
              <span className="min-w-0">
                <span className="block truncate font-mono">{name}</span>
                {about}
              </span>
            </a>
          ))}
        </section>
      )}
    </>
  );
}
