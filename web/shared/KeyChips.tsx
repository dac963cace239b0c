import { KEYS, type PhoneKey } from "../../core/phones/model-cards.ts";

/** A phone's keys as chips that are marked and unmarked; the home key only where there is one. */
export function KeyChips({ home, marked, onMark }: { home: boolean; marked: readonly PhoneKey[]; onMark: (marked: PhoneKey[]) => void }) {
  return KEYS.filter((key) => key !== "home" || home).map((key) => (
    <button
      key={key}
      type="button"
      className="chip h-7 px-2.5"
      aria-pressed={marked.includes(key)}
      onClick={() => onMark(marked.includes(key) ? marked.filter((one) => one !== key) : [...marked, key])}
    >
      {key}
    </button>
  ));
}
