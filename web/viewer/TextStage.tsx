import Papa from "papaparse";
import { bytes, count, nameOf } from "../shared/words.ts";
import type { Found } from "../worker/finds/protocol.ts";
import { InnerPictures } from "./InnerPictures.tsx";
import { useAnswer } from "./use-answer.ts";
import { WordStage } from "./WordStage.tsx";

/** Rows of a table that are laid out at once. */
const MOST_ROWS = 1000;

/** How a laid-out page looks: as paper, whatever the theme. */
const PAPER =
  "<style>body{font:16px/1.5 system-ui,sans-serif;color:#20242b;background:#fffdf7;margin:1.5rem;overflow-wrap:anywhere}td,th{padding:.2rem .6rem;border:1px solid #d9cfbc}</style>";

/**
 * A page of the web, laid out. What stands in it holds an allow-list of elements without attributes, and is shown where nothing can run (HTML §7.6,
 * sandboxing): twice safe.
 */
function WebPage({ find }: { find: Found }) {
  const answer = useAnswer((looking) => looking.markup(find), [find.key]);
  if (!answer) return <span className="loading loading-dots m-6" role="status" aria-label="It is being read" />;
  if ("word" in answer) return <WordStage find={find} word={answer.word} />;
  return <iframe className="size-full border-0 bg-base-100" sandbox="" title={`Page ${nameOf(find)}`} srcDoc={PAPER + answer.markup} />;
}

/** A text; a page of the web laid out. */
export function TextStage({ find }: { find: Found }) {
  return find.format === "html" ? <WebPage find={find} /> : <PlainText find={find} />;
}

/** A text as it stands; comma-separated values as a table (RFC 4180). Nothing of it is taken for markup. */
function PlainText({ find }: { find: Found }) {
  const answer = useAnswer((looking) => looking.text(find), [find.key]);
  if (!answer) return <span className="loading loading-dots m-6" role="status" aria-label="It is being read" />;
  if ("word" in answer)
    return (
      <div className="size-full overflow-auto bg-base-100">
        <WordStage find={find} word={answer.word} />
        <InnerPictures find={find} />
      </div>
    );
  return (
    <div className="flex size-full flex-col bg-base-100">
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls */}
      <div className="min-h-0 flex-1 overflow-auto p-4" tabIndex={0} role="region" aria-label={`Text of ${nameOf(find)}`}>
        {find.format === "csv" ? (
          <Rows text={answer.text} />
        ) : (
          <pre className="font-mono text-sm whitespace-pre-wrap wrap-anywhere">
            {find.format === "json" ? laidOut(answer) : answer.text}
          </pre>
        )}
        <InnerPictures find={find} />
      </div>
      {answer.goesOn && (
        <p className="border-t border-line px-4 py-1.5 text-sm text-second">Its beginning; all of it is {bytes(find.size)}.</p>
      )}
    </div>
  );
}

/** JSON (RFC 8259) a line for each value, where all of it is there and sound. */
function laidOut({ text, goesOn }: { readonly text: string; readonly goesOn: boolean }): string {
  if (goesOn) return text;
  try {
    return JSON.stringify(JSON.parse(text), null, 2);
  } catch {
    return text;
  }
}

function Rows({ text }: { text: string }) {
  const { data } = Papa.parse<string[]>(text, { skipEmptyLines: true, preview: MOST_ROWS + 1 });
  const [head, ...rows] = data;
  return (
    <>
      <table className="table text-sm">
        <thead>
          <tr>
            {head?.map((name, column) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: columns may share a name, and never change places
              <th key={column}>{name}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, number) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: rows of a file that does not change
            <tr key={number}>
              {row.map((value, column) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: as the row
                <td key={column}>{value}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {rows.length === MOST_ROWS && <p className="text-sm text-second">The first {count(MOST_ROWS)} rows.</p>}
    </>
  );
}
