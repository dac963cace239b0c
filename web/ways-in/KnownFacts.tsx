import type { Facts } from "../../core/triage/facts.ts";
import { useJob, useSession } from "../session/use-session.ts";

/** What is asked or seen, and opens or closes ways. */
const QUESTIONS: readonly (readonly [keyof Facts & KeysOfTruth, string])[] = [
  ["debugging", "USB debugging is on"],
  ["allowedComputer", "the owner brings a computer it allowed before"],
  ["root", "it is rooted"],
  ["customRecovery", "a recovery with a shell is on it"],
  ["bootloaderUnlocked", "its bootloader is unlocked"],
  ["recoveryImage", "a recovery image for it is at hand"],
  ["matchingImage", "a system image of exactly its build code is at hand"],
];
type KeysOfTruth = { [Key in keyof Facts]: Facts[Key] extends boolean | null ? Key : never }[keyof Facts];

export function KnownFacts() {
  const session = useSession();
  const { facts } = useJob();
  const know = (key: KeysOfTruth, value: boolean | null) => void session.changeJob({ facts: { ...facts, [key]: value } });
  return (
    <section className="panel self-start p-4" aria-label="What is known of the phone">
      <h2 className="font-bold">What is known of the phone</h2>
      <p className="text-sm text-second">Leave open what nobody can tell.</p>
      <ul className="mt-2 flex flex-col gap-2">
        {QUESTIONS.map(([key, words]) => (
          <li key={key}>
            <fieldset className="flex items-center justify-between gap-3">
              <legend className="sr-only">{words}</legend>
              <span className="text-sm" aria-hidden="true">
                {words}
              </span>
              <span className="flex gap-1">
                {([true, false] as const).map((value) => (
                  <button
                    key={String(value)}
                    type="button"
                    className="chip rounded-field px-2.5"
                    aria-pressed={facts[key] === value}
                    onClick={() => know(key, facts[key] === value ? null : value)}
                  >
                    {value ? "yes" : "no"}
                  </button>
                ))}
              </span>
            </fieldset>
          </li>
        ))}
      </ul>
    </section>
  );
}
