import { hitsIn, wordsOf } from "../../core/finds/fold.ts";

/** A text as it was written, with what was looked for marked. It is text and nothing else: nothing in it runs. */
export function Marked({ text, words }: { text: string; words: string }) {
  const hits = hitsIn(text, wordsOf(words));
  if (hits.length === 0) return <>{text}</>;
  const parts = hits.flatMap(([from, to], index) => [
    <span key={`before ${from}`}>{text.slice(index === 0 ? 0 : hits[index - 1][1], from)}</span>,
    <mark key={`hit ${from}`} className="rounded bg-accent px-0.5 text-accent-content">
      {text.slice(from, to)}
    </mark>,
  ]);
  return (
    <>
      {parts}
      {text.slice(hits[hits.length - 1][1])}
    </>
  );
}
