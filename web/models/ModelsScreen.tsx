import { useLiveQuery } from "dexie-react-hooks";
import { useRef, useState } from "react";
import { Link } from "react-router";
import { UnusableError } from "../../core/bytes/source.ts";
import { cardsFromFile, cardsToFile, MODES, type ModelCard, PRACTICE_CARDS, sameModel, usualCard } from "../../core/phones/model-cards.ts";
import { database } from "../kept/database.ts";
import { FileField } from "../shared/FileField.tsx";
import { PhoneDrawing } from "../shared/PhoneDrawing.tsx";
import { saveFile } from "../shared/save-file.ts";
import { Warning } from "../shared/Warning.tsx";
import { Lamp } from "../shell/Lamp.tsx";
import { ThemeSwitch } from "../shell/ThemeSwitch.tsx";
import { ModelForm } from "./ModelForm.tsx";

type Kept = ModelCard & { id?: number };

/** Which keys lead where, on which model? What this bench learned, as cards that can be given on. */
export function ModelsScreen() {
  const own = useLiveQuery(() => database.models.toArray()) ?? [];
  const [edited, edit] = useState<Kept | null>(null);
  const [said, say] = useState<string | null>(null);
  const file = useRef<HTMLInputElement>(null);

  async function take(chosen: File): Promise<void> {
    try {
      const cards = cardsFromFile(await chosen.text());
      for (const card of cards) await keep(card, own.find((one) => sameModel(one, card))?.id);
      say(`${cards.length} model cards taken from ${chosen.name}.`);
    } catch (cause) {
      if (!(cause instanceof UnusableError)) throw cause;
      say(cause.message);
    }
  }
  const give = () =>
    saveFile(new Blob([cardsToFile(own.map(({ id: _, ...card }) => card))], { type: "application/json" }), "model-cards.json");

  return (
    <div className="flex h-full flex-col">
      <header className="flex h-15 shrink-0 items-center gap-3 border-b border-line bg-base-100 px-5">
        <Link to="/" aria-label="To the bench" title="To the bench" className="rounded-field">
          <Lamp />
        </Link>
        <h1 className="text-2xl font-bold">Model cards</h1>
        <div className="ml-auto flex gap-2">
          <FileField field={file} label="A file of model cards" accept=".json" onFile={(chosen) => void take(chosen)} />
          <button type="button" className="button" onClick={() => file.current?.click()}>
            Import…
          </button>
          <button type="button" className="button" disabled={own.length === 0} onClick={give}>
            Export
          </button>
          <button
            type="button"
            className="button button-main"
            onClick={() => edit({ ...usualCard(false), maker: "", model: "", notes: "" })}
          >
            New card
          </button>
          <ThemeSwitch />
        </div>
      </header>
      <main className="grid min-h-0 flex-1 grid-cols-[1fr_26rem] gap-4 overflow-auto p-5">
        <section aria-label="Cards">
          {said && (
            <Warning role="status" className="mb-3">
              {said}
            </Warning>
          )}
          <ul className="grid grid-cols-2 content-start gap-3">
            {own.map((card) => (
              <Card key={card.id} card={card} onEdit={() => edit(card)} onRemove={() => void database.models.delete(card.id ?? 0)} />
            ))}
            {PRACTICE_CARDS.filter((card) => !own.some((one) => sameModel(one, card))).map((card) => (
              <Card key={card.model} card={card} onEdit={() => edit({ ...card })} />
            ))}
          </ul>
        </section>
        {edited && (
          <ModelForm
            key={edited.id ?? `${edited.maker} ${edited.model}`}
            card={edited}
            onKeep={async (card) => {
              await keep(card, edited.id ?? own.find((one) => sameModel(one, card))?.id);
              edit(null);
            }}
            onCancel={() => edit(null)}
          />
        )}
      </main>
    </div>
  );
}

/** One card per model: a newer one takes the place of the older. */
const keep = (card: ModelCard, id: number | undefined) => database.models.put(id === undefined ? card : { ...card, id });

function Card({ card, onEdit, onRemove }: { card: ModelCard; onEdit: () => void; onRemove?: () => void }) {
  return (
    <li className="panel flex gap-4 p-4">
      <PhoneDrawing keysAt={card.keysAt} className="h-28 shrink-0" />
      <div className="min-w-0 flex-1">
        <h2 className="font-bold">
          {card.maker} {card.model}
        </h2>
        <dl className="mt-1 grid grid-cols-[5.5rem_1fr] gap-x-2 text-[13.5px] [&_dt]:text-second">
          {MODES.map((mode) => {
            const keys = card.modes[mode];
            return (
              <div key={mode} className="contents">
                <dt>{mode}</dt>
                <dd>{keys ? `${keys.hold.join(" + ")}${keys.accept ? `, then ${keys.accept}` : ""}` : "none"}</dd>
              </div>
            );
          })}
          <dt>builds</dt>
          <dd className="font-mono break-words">{card.builds.join(", ") || "none known"}</dd>
        </dl>
        {card.notes && <p className="mt-1 text-[13.5px]">{card.notes}</p>}
        <div className="mt-2 flex gap-2">
          <button type="button" className="button h-8" onClick={onEdit} aria-label={`Change ${card.model}`}>
            Change
          </button>
          {onRemove && (
            <button type="button" className="button h-8" onClick={onRemove} aria-label={`Remove ${card.model}`}>
              Remove
            </button>
          )}
        </div>
      </div>
    </li>
  );
}
