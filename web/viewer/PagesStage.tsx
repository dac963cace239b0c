import { useEffect, useMemo, useState } from "react";
import { useSession } from "../session/use-session.ts";
import { count, nameOf } from "../shared/words.ts";
import type { Found } from "../worker/finds/protocol.ts";
import type { PagesAnswer } from "../worker/reading/protocol.ts";
import { useAnswer } from "./use-answer.ts";
import { WordStage } from "./WordStage.tsx";

const SIDE = 1800;

/** A document page by page. Formats whose pages are not drawn here say so. */
export function PagesStage({ find }: { find: Found }) {
  return find.format === "pdf" ? <DrawnPages find={find} /> : <WordStage find={find} />;
}

function DrawnPages({ find }: { find: Found }) {
  const [number, setNumber] = useState(1);
  const page = useAnswer(async (looking) => ({ number, ...(await looking.page(find, number, SIDE)) }), [find.key, number]);
  // A page stays until the next one is there.
  const picture = page && "picture" in page ? page.picture : null;
  const address = useMemo(() => picture && URL.createObjectURL(picture), [picture]);
  useEffect(() => () => void (address && URL.revokeObjectURL(address)), [address]);
  if (!page) return <span className="loading loading-dots m-6" role="status" aria-label="It is being drawn" />;
  if ("word" in page) return <WordStage find={find} word={page.word} />;
  return (
    <div className="flex size-full flex-col">
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls */}
      <div className="min-h-0 flex-1 overflow-auto p-4" tabIndex={0} role="region" aria-label={`Pages of ${nameOf(find)}`}>
        <img src={address ?? undefined} alt={`Page ${page.number} of ${nameOf(find)}`} className="mx-auto block max-w-full shadow-lift" />
      </div>
      <div className="flex items-center justify-center gap-3 bg-base-100 py-1.5" role="toolbar" aria-label="Pages">
        <button type="button" className="button h-8" disabled={number <= 1} onClick={() => setNumber(number - 1)}>
          Page before
        </button>
        <span>
          page {count(number)} of {count(page.pages)}
        </span>
        <button type="button" className="button h-8" disabled={number >= page.pages} onClick={() => setNumber(number + 1)}>
          Next page
        </button>
        <PageSearch find={find} number={number} onPage={setNumber} />
      </div>
    </div>
  );
}

/** Words that are looked for in all pages: on how many they stand, and the way to the next one. Enter looks, and goes on. */
function PageSearch({ find, number, onPage }: { find: Found; number: number; onPage: (page: number) => void }) {
  const { looking } = useSession();
  const [words, setWords] = useState("");
  const [found, setFound] = useState<{ readonly words: string; readonly answer: PagesAnswer } | "looking" | null>(null);
  const known = found !== null && found !== "looking" && found.words === words ? found.answer : null;
  const goOn = (pages: readonly number[]) => {
    const next = pages.find((page) => page > number) ?? pages.at(0);
    if (next !== undefined) onPage(next);
  };
  async function search() {
    if (known && "pages" in known) return goOn(known.pages);
    setFound("looking");
    const answer = await looking.pagesWith(find, words);
    setFound({ words, answer });
    if ("pages" in answer && !answer.pages.includes(number)) goOn(answer.pages);
  }
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (words.trim()) void search();
      }}
    >
      <input
        type="text"
        className="h-8 w-48 rounded-field border border-line bg-base-100 px-2"
        aria-label="Words in it"
        placeholder="Words in it"
        value={words}
        onChange={({ currentTarget }) => setWords(currentTarget.value)}
      />
      <span className="w-44 text-sm text-second" role="status">
        {found === "looking" && "looking…"}
        {known && ("word" in known ? known.word : wordsOf(known.pages))}
      </span>
    </form>
  );
}

/** Pages that are named. */
const NAMED = 6;

function wordsOf(pages: readonly number[]): string {
  if (pages.length === 0) return "not on any page";
  if (pages.length > NAMED) return `on ${count(pages.length)} pages`;
  return `on page ${pages.join(", ")}`;
}
