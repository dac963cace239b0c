import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef, useState } from "react";
import { formatNamed } from "../../core/filetypes/table.ts";
import { useSession } from "../session/use-session.ts";
import { bytes, moment, nameOf, plural } from "../shared/words.ts";
import type { Found } from "../worker/finds/protocol.ts";
import type { ListedEntry } from "../worker/reading/protocol.ts";
import { useAnswer } from "./use-answer.ts";
import { WordStage } from "./WordStage.tsx";

const LINE = 32;

/** What an archive or backup holds, line by line. What became a find of its own opens from here. */
export function ListStage({ find }: { find: Found }) {
  return formatNamed(find.format).holds === "rows" ? <WordStage find={find} /> : <Entries find={find} />;
}

function Entries({ find }: { find: Found }) {
  const session = useSession();
  const answer = useAnswer((looking) => looking.entries(find), [find.key]);
  const [missing, setMissing] = useState<string | null>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const open = async ({ key, path }: ListedEntry) => {
    const one = key === null ? null : await session.desks.index.find(key);
    if (one) session.select(one);
    else setMissing(path);
  };
  const entries: readonly ListedEntry[] = answer && "entries" in answer ? answer.entries : [];
  const virtual = useVirtualizer({
    count: entries.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => LINE,
    overscan: 8,
  });
  if (!answer) return <span className="loading loading-dots m-6" role="status" aria-label="It is being read" />;
  if ("word" in answer) return <WordStage find={find} word={answer.word} />;
  return (
    <div className="flex size-full flex-col bg-base-100">
      <p className="border-b border-line px-4 py-2 text-sm text-second">
        {answer.goesOn ? "the first " : ""}
        {plural(entries.length, "entry", "entries")} of {nameOf(find)}
        {answer.troubles.length > 0 && ` · ${answer.troubles[0]}`}
        {missing && <strong role="status"> · {missing} is no find of its own: the scan did not open it.</strong>}
      </p>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls */}
      <div ref={scroller} className="min-h-0 flex-1 overflow-auto" tabIndex={0} role="group" aria-label={`Contents of ${nameOf(find)}`}>
        <ul className="relative" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map(({ index, start }) => {
            const entry = entries[index];
            const { path, size, modified, key } = entry;
            return (
              <li
                key={index}
                className="absolute inset-x-0 flex items-center gap-4 border-b border-line px-4 text-sm"
                style={{ transform: `translateY(${start}px)`, height: LINE }}
              >
                <span className="min-w-0 flex-1 truncate font-mono text-[13px]" title={path}>
                  {path}
                </span>
                <span className="w-24 text-right">{bytes(size)}</span>
                <span className="w-52 truncate text-right text-second">{modified === null ? "" : moment(modified)}</span>
                {key && (
                  <button type="button" className="rounded px-1 underline" aria-label={`Open ${path}`} onClick={() => void open(entry)}>
                    open
                  </button>
                )}
              </li>
            );
          })}
        </ul>
      </div>
    </div>
  );
}
