import { ArrowRight } from "lucide-react";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { ByHand } from "../../core/stores/mapping/by-hand.ts";
import { MappingSchema } from "../../core/stores/mapping/mapping.ts";
import { useSession } from "../session/use-session.ts";
import { FileField } from "../shared/FileField.tsx";
import { saveFile } from "../shared/save-file.ts";
import { count } from "../shared/words.ts";
import type { MeaningAnswer, Verdict } from "../worker/reading/meaning-protocol.ts";

/** Mappings are small: what is larger is something else. */
const MOST_BYTES = 1024 * 1024;

/** What becomes of what was said: kept and used, saved as a file, or that it is no messenger. */
export function KeepBar({ answer, said }: { answer: MeaningAnswer; said: ByHand }) {
  const session = useSession();
  const navigate = useNavigate();
  const field = useRef<HTMLInputElement>(null);
  const [word, setWord] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const { mapping } = answer.meaning;
  const keep = async (verdict: Verdict) => {
    setProblem(null);
    const kept = await session.desks.reading.keepMeaning(session.id, verdict);
    if (!kept.ok) return setProblem(kept.because);
    if (kept.read === null) return setWord("Kept. The scan of this medium reads with it.");
    if (verdict.by === "no messenger") return setWord("Kept: it is no messenger, and its messages are taken out.");
    await navigate("../finds/conversations", { state: { read: kept.read } });
  };
  const open = async (file: File) => {
    setProblem(null);
    if (file.size > MOST_BYTES) return setProblem(`${file.name} is too large to be a mapping.`);
    const parsed = MappingSchema.safeParse(parsedJson(await file.text()));
    if (parsed.success) return keep({ by: "file", mapping: parsed.data });
    const [issue] = parsed.error.issues;
    setProblem(`${file.name} is no mapping: ${issue.path.join(".") || "it"}: ${issue.message}`);
  };
  return (
    <section className="flex h-14 shrink-0 items-center gap-3 border-t border-line bg-base-100 px-4" aria-label="What becomes of it">
      {problem ? (
        <p role="alert" className="min-w-0 truncate rounded-field bg-warning px-2 py-1 font-semibold text-warning-content" title={problem}>
          {problem}
        </p>
      ) : (
        <p className="min-w-0 truncate text-second" role="status">
          {word ?? `Kept for ${answer.app ?? "databases of these tables"}, on all tickets; used from now on, erased rows included.`}
        </p>
      )}
      <span className="ml-auto" />
      <FileField field={field} label="Mapping file" accept=".json,application/json" onFile={(file) => void open(file)} />
      <button type="button" className="button" onClick={() => field.current?.click()}>
        Read with a file…
      </button>
      <button
        type="button"
        className="button"
        disabled={!mapping}
        onClick={() =>
          saveFile(
            new Blob([`${JSON.stringify({ ...mapping, app: answer.app }, null, 2)}\n`], { type: "application/json" }),
            `${answer.app ?? "messenger"}.mapping.json`,
          )
        }
      >
        Save as a file…
      </button>
      <button type="button" className="button" onClick={() => void keep({ by: "no messenger" })}>
        It is no messenger
      </button>
      <button type="button" className="button button-main" disabled={!mapping} onClick={() => void keep({ by: "hand", said })}>
        Keep and read {mapping ? `${count(answer.meaning.holds?.messages ?? 0)} messages` : "with it"}
        <ArrowRight className="size-4" aria-hidden="true" />
      </button>
    </section>
  );
}

/** @returns null for what is no JSON: a schema says the rest */
function parsedJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
