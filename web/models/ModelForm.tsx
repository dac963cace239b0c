import { zodResolver } from "@hookform/resolvers/zod";
import { useForm } from "react-hook-form";
import { z } from "zod";
import { KEYS, MODES, ModelCard, type PhoneKey } from "../../core/phones/model-cards.ts";
import { KeyChips } from "../shared/KeyChips.tsx";
import { PhoneDrawing } from "../shared/PhoneDrawing.tsx";

/** A card as it is typed: build codes are lines of text, a mode without keys is none. */
const Typed = z.object({
  maker: z.string().trim().min(1, "Name the maker."),
  model: z.string().trim().min(1, "Name the model."),
  volume: z.enum(["left", "right"]),
  power: z.enum(["left", "right"]),
  home: z.boolean(),
  modes: z.object({ recovery: z.array(z.enum(KEYS)), bootloader: z.array(z.enum(KEYS)), download: z.array(z.enum(KEYS)) }),
  accept: z.boolean(),
  builds: z.string(),
  notes: z.string().max(2000),
});
type Typed = z.infer<typeof Typed>;

const typedFrom = ({ keysAt, modes, builds, ...card }: ModelCard): Typed => ({
  maker: card.maker,
  model: card.model,
  notes: card.notes,
  ...keysAt,
  modes: { recovery: modes.recovery?.hold ?? [], bootloader: modes.bootloader?.hold ?? [], download: modes.download?.hold ?? [] },
  accept: modes.download?.accept === "volume up",
  builds: builds.join("\n"),
});

function cardFrom({ volume, power, home, modes, accept, builds, ...card }: Typed): ModelCard {
  const hold = (keys: PhoneKey[], then: PhoneKey | null) => (keys.length > 0 ? { hold: keys, accept: then } : null);
  return ModelCard.parse({
    ...card,
    keysAt: { volume, power, home },
    modes: {
      recovery: hold(modes.recovery, null),
      bootloader: hold(modes.bootloader, null),
      download: hold(modes.download, accept ? "volume up" : null),
    },
    builds: builds
      .split("\n")
      .map((line) => line.trim())
      .filter(Boolean),
  });
}

export function ModelForm({ card, onKeep, onCancel }: { card: ModelCard; onKeep: (card: ModelCard) => void; onCancel: () => void }) {
  const { register, handleSubmit, watch, setValue, formState } = useForm({ resolver: zodResolver(Typed), defaultValues: typedFrom(card) });
  const now = watch();
  const field = "mt-0.5 h-9 w-full rounded-field border border-line bg-base-100 px-2";
  return (
    <form
      className="panel flex flex-col gap-2.5 self-start p-4"
      aria-label="Model card"
      onSubmit={handleSubmit((typed) => onKeep(cardFrom(typed)))}
    >
      <div className="grid grid-cols-2 gap-2">
        {(["maker", "model"] as const).map((name) => (
          <label key={name} className="text-sm">
            {name}
            <input className={field} {...register(name)} />
            {formState.errors[name] && (
              <span role="alert" className="font-semibold">
                {formState.errors[name]?.message}
              </span>
            )}
          </label>
        ))}
      </div>
      <div className="flex items-center gap-4">
        <PhoneDrawing keysAt={{ volume: now.volume, power: now.power, home: now.home }} className="h-24 shrink-0" />
        <div className="flex flex-col gap-1.5 text-sm">
          {(["volume", "power"] as const).map((name) => (
            <label key={name} className="flex items-center gap-2">
              {name} keys at the
              <select className="h-8 rounded-field border border-line bg-base-100 px-1" {...register(name)}>
                <option>left</option>
                <option>right</option>
              </select>
            </label>
          ))}
          <label className="flex items-center gap-2">
            <input type="checkbox" {...register("home")} /> has a home key
          </label>
        </div>
      </div>
      {MODES.map((mode) => (
        <fieldset key={mode}>
          <legend className="text-sm">keys of {mode} mode; none marked: it has none</legend>
          <div className="mt-0.5 flex flex-wrap gap-1.5">
            <KeyChips home={now.home} marked={now.modes[mode]} onMark={(keys) => setValue(`modes.${mode}`, keys)} />
          </div>
        </fieldset>
      ))}
      <label className="flex items-center gap-2 text-sm">
        <input type="checkbox" {...register("accept")} /> download mode is accepted with volume up
      </label>
      <label className="text-sm">
        build codes of good system images, one a line
        <textarea className={`${field} h-16 font-mono`} {...register("builds")} />
      </label>
      <label className="text-sm">
        notes
        <textarea className={`${field} h-16`} {...register("notes")} />
      </label>
      <div className="flex gap-2">
        <button type="submit" className="button button-main">
          Keep the card
        </button>
        <button type="button" className="button" onClick={onCancel}>
          Cancel
        </button>
      </div>
    </form>
  );
}
