import { zodResolver } from "@hookform/resolvers/zod";
import { Plus, X } from "lucide-react";
import { useForm } from "react-hook-form";
import { z } from "zod";
import { WANTED, Want, wantWords } from "../../core/triage/intake.ts";
import { Field, INPUT } from "./Field.tsx";

/** What is typed: empty days are no days. */
const day = z.union([z.literal("").transform(() => null), z.iso.date()]);
const Typed = z
  .object({ kind: z.enum(WANTED), from: day, to: day, who: z.string().trim().max(200), words: Want.shape.words })
  .refine(({ kind, from, to, who, words }) => kind !== "any kind" || from || to || who || words, {
    path: ["words"],
    error: "Say at least one thing.",
  })
  .refine(({ from, to }) => !from || !to || from <= to, { path: ["to"], error: "It ends before it begins." });

/** More are no wants any more: everything is asked for. */
const MOST_WANTS = 32;

/** What the customer asks for, one line each. */
export function Wants({ wants, onChange }: { wants: readonly Want[]; onChange: (wants: Want[]) => void }) {
  const form = useForm({
    resolver: zodResolver(Typed),
    defaultValues: { kind: "photos" as Want["kind"], from: "", to: "", who: "", words: "" },
  });
  const { errors } = form.formState;
  return (
    <section aria-label="What is wanted">
      <h2 className="mb-1 text-sm font-bold">What is wanted?</h2>
      <div className="rounded-box border border-line">
        <ul>
          {wants.map((want, index) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: wants have no identity of their own
            <li key={index} className="flex items-center gap-3 border-b border-line px-3 py-1">
              <strong className="flex-1">{wantWords(want)}</strong>
              <button
                type="button"
                className="button h-7 w-7 border-0 px-0"
                aria-label={`Take out: ${wantWords(want)}`}
                onClick={() => onChange(wants.filter((_, other) => other !== index))}
              >
                <X className="size-4" aria-hidden="true" />
              </button>
            </li>
          ))}
        </ul>
        <form
          className="grid grid-cols-[1fr_1fr_1fr_auto] items-end gap-2 p-2"
          onSubmit={form.handleSubmit((want) => {
            onChange([...wants, want]);
            form.reset();
          })}
        >
          <Field label="Kind">
            <select className={INPUT} {...form.register("kind")}>
              {WANTED.map((kind) => (
                <option key={kind}>{kind}</option>
              ))}
            </select>
          </Field>
          <Field label="From">
            <input type="date" className={INPUT} {...form.register("from")} />
          </Field>
          <Field label="To">
            <input type="date" className={INPUT} {...form.register("to")} />
          </Field>
          <span />
          <Field label="With whom">
            <input className={INPUT} maxLength={200} placeholder="a name or number" {...form.register("who")} />
          </Field>
          <div className="col-span-2">
            <Field label="Which words">
              <input className={INPUT} maxLength={200} {...form.register("words")} />
            </Field>
          </div>
          <button
            type="submit"
            className="button"
            aria-label="Add this want"
            disabled={wants.length >= MOST_WANTS}
            title={wants.length >= MOST_WANTS ? `No more than ${MOST_WANTS} can be asked for` : undefined}
          >
            <Plus className="size-4" aria-hidden="true" />
          </button>
          {(errors.to ?? errors.words) && (
            <p role="alert" className="col-span-4 text-sm font-semibold">
              {(errors.to ?? errors.words)?.message}
            </p>
          )}
        </form>
      </div>
    </section>
  );
}
