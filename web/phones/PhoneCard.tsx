import { useState } from "react";
import { cardFor, PRACTICE_CARDS, usualCard } from "../../core/phones/model-cards.ts";
import type { PhoneView } from "../../core/phones/phone-view.ts";
import { USUAL_TROUBLE } from "../../core/phones/states.ts";
import { PhoneDrawing } from "../shared/PhoneDrawing.tsx";
import { plural } from "../shared/words.ts";
import { phoneDesk } from "./phones.ts";
import { nextWords, reportWords, stateWords } from "./state-words.ts";

interface Props {
  readonly phone: PhoneView;
  /** The ticket that it belongs to. */
  readonly ticket: string | null;
  /** What is still to be taken back on it, though its job was handed over. */
  readonly left: number;
  readonly onTake: () => void;
  readonly onTakePeople: () => void;
}

/** A phone on the bench: how it stands in words, and the next step. */
export function PhoneCard({ phone, ticket, left, onTake, onTakePeople }: Props) {
  const [asking, ask] = useState(false);
  const { keysAt } = cardFor(phone.name, PRACTICE_CARDS) ?? usualCard(false);
  const trouble = USUAL_TROUBLE[phone.state];
  const lit = phone.state === "ready" || phone.state === "waiting for the person to allow";
  return (
    <article className="panel relative flex w-[27.5rem] gap-3 self-start p-3 shadow-lift" aria-label={phone.name}>
      <PhoneDrawing keysAt={keysAt} dark={!lit} className="h-20 shrink-0" />
      <div className="min-w-0 flex-1">
        <div className="flex items-baseline justify-between gap-3">
          <h2 className="truncate text-lg font-bold">{phone.name}</h2>
          <span className="text-sm whitespace-nowrap text-second">
            {phone.way} · <span className="font-mono">{phone.serial}</span>
          </span>
        </div>
        <p className="font-semibold" role="status">
          {stateWords(phone)}
        </p>
        <p className="text-[13.5px] text-second">{reportWords(phone) || nextWords(phone)}</p>
        <div className="mt-2 flex flex-wrap gap-2">
          <button type="button" className="button button-main h-8" onClick={onTake}>
            {left > 0 ? `Take back ${plural(left, "change")}, ticket ${ticket}` : ticket ? `To ticket ${ticket}` : "New ticket for it"}
          </button>
          {phone.state === "ready" && (
            <button type="button" className="button h-8" onClick={onTakePeople} title="as its own providers tell them; about a minute">
              Take contacts and messages
            </button>
          )}
          {(phone.state === "waiting for the person to allow" || phone.state === "offline") && (
            <button type="button" className="button button-lamp h-8" onClick={() => void phoneDesk().askAgain(phone.id)}>
              Ask again
            </button>
          )}
          {trouble.length > 0 && (
            <button type="button" className="button h-8" aria-expanded={asking} onClick={() => ask(!asking)}>
              What can it be?
            </button>
          )}
        </div>
        {asking && (
          <ul className="mt-2 list-disc pl-5 text-[13.5px]">
            {trouble.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
        )}
      </div>
    </article>
  );
}
