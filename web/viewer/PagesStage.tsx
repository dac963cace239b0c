import { useEffect, useState } from "react";
import { useSession } from "../session/use-session.ts";
import { count, nameOf } from "../shared/words.ts";
import type { Found } from "../worker/finds/protocol.ts";
import { WordStage } from "./WordStage.tsx";

const SIDE = 1800;

interface Shown {
  readonly address: string;
  readonly number: number;
  readonly pages: number;
}

/** A document page by page. Formats whose pages are not drawn here say so. */
export function PagesStage({ find }: { find: Found }) {
  const session = useSession();
  const [number, setNumber] = useState(1);
  const [page, setPage] = useState<Shown | { readonly word: string } | null>(null);
  const isDrawn = find.format === "pdf";
  // biome-ignore lint/correctness/useExhaustiveDependencies: the same find goes by the same key
  useEffect(() => {
    if (!isDrawn) return;
    let gone = false;
    void session.looking.page(find, number, SIDE).then((answer) => {
      if (gone) return;
      setPage("word" in answer ? answer : { address: URL.createObjectURL(answer.picture), pages: answer.pages, number });
    });
    return () => {
      gone = true;
    };
  }, [session, find.key, number, isDrawn]);
  // A page stays until the next one is there.
  const address = page && "address" in page ? page.address : null;
  useEffect(() => () => void (address && URL.revokeObjectURL(address)), [address]);
  if (!isDrawn) return <WordStage find={find} />;
  if (!page) return <span className="loading loading-dots m-6" role="status" aria-label="It is being drawn" />;
  if ("word" in page) return <WordStage find={find} word={page.word} />;
  return (
    <div className="flex size-full flex-col">
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls */}
      <div className="min-h-0 flex-1 overflow-auto p-4" tabIndex={0} role="region" aria-label={`Pages of ${nameOf(find)}`}>
        <img src={page.address} alt={`Page ${page.number} of ${nameOf(find)}`} className="mx-auto block max-w-full shadow-lift" />
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
      </div>
    </div>
  );
}
