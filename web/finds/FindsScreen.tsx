import { FolderTree, LayoutGrid, List } from "lucide-react";
import { useState } from "react";
import { CONDITIONS, KIND_WORDS, KINDS, STATES } from "../../core/finds/find.ts";
import type { Query } from "../../core/finds/find-index.ts";
import { useJob, useSession, useSessionState } from "../session/use-session.ts";
import { whyNoErased } from "../session/why-empty.ts";
import { ConditionCells, StateShape } from "../shared/Marks.tsx";
import { SearchField } from "../shared/SearchField.tsx";
import { bytes, count, hex, plural } from "../shared/words.ts";
import { Days } from "./Days.tsx";
import { Folders } from "./Folders.tsx";
import { folderWords } from "./folder-words.ts";
import { Inspector } from "./Inspector.tsx";
import { PreviewDialog } from "./PreviewDialog.tsx";
import { Tray } from "./Tray.tsx";
import { Wall } from "./Wall.tsx";

const SORTS: Record<Query["sort"], string> = {
  newest: "newest first",
  oldest: "oldest first",
  name: "name",
  largest: "largest first",
  place: "place on the storage",
};

const toggled = <T,>(list: readonly T[], one: T): readonly T[] =>
  list.includes(one) ? list.filter((other) => other !== one) : [...list, one];

/** Is what they asked for here? Is it any good? Which copy is best? */
export function FindsScreen() {
  const session = useSession();
  const job = useJob();
  const query = useSessionState((state) => state.query);
  const answer = useSessionState((state) => state.answer);
  const selected = useSessionState((state) => state.selected);
  const noErased = whyNoErased(job);
  const [look, setLook] = useState<"wall" | "list">("wall");
  const [opened, setOpened] = useState(false);
  const [tree, setTree] = useState(query.folder !== null);
  const filtered =
    query.kinds.length + query.states.length + query.conditions.length > 0 ||
    query.days ||
    query.words ||
    query.place ||
    query.folder !== null;

  return (
    <main className="flex min-h-0 flex-1 flex-col">
      <div className="flex min-h-0 flex-1 flex-col gap-2 px-4 pt-3">
        <Days days={answer?.days ?? []} span={answer?.span ?? null} range={query.days} onRange={(days) => void session.ask({ days })} />
        <div className="flex flex-wrap items-center gap-2" role="toolbar" aria-label="Kinds">
          <button type="button" className="chip" aria-pressed={tree} onClick={() => setTree(!tree)}>
            <FolderTree className="size-4" aria-hidden="true" /> folders
          </button>
          {KINDS.filter((kind) => (answer?.kinds[kind] ?? 0) > 0 || query.kinds.includes(kind)).map((kind) => (
            <button
              key={kind}
              type="button"
              className="chip"
              aria-pressed={query.kinds.includes(kind)}
              onClick={() => void session.ask({ kinds: toggled(query.kinds, kind) })}
            >
              {KIND_WORDS[kind]} <span className="font-mono">{count(answer?.kinds[kind] ?? 0)}</span>
            </button>
          ))}
          <span className="ml-auto" />
          {filtered ? (
            <button
              type="button"
              className="button h-8"
              onClick={() => void session.ask({ kinds: [], states: [], conditions: [], days: null, words: "", place: null, folder: null })}
            >
              Show all
            </button>
          ) : null}
          <SearchField
            label="Search names and folders"
            placeholder="Names and folders"
            value={query.words}
            onChange={(words) => void session.ask({ words })}
            className="w-52"
          />
        </div>
        <div className="flex flex-wrap items-center gap-2" role="toolbar" aria-label="State and condition">
          {STATES.map((state) => (
            <button
              key={state}
              type="button"
              className="chip"
              aria-pressed={query.states.includes(state)}
              onClick={() => void session.ask({ states: toggled(query.states, state) })}
            >
              <StateShape state={state} /> {state} <span className="font-mono">{count(answer?.states[state] ?? 0)}</span>
            </button>
          ))}
          <span className="w-3" />
          {CONDITIONS.map((condition) => (
            <button
              key={condition}
              type="button"
              className="chip"
              aria-pressed={query.conditions.includes(condition)}
              onClick={() => void session.ask({ conditions: toggled(query.conditions, condition) })}
            >
              <ConditionCells condition={condition} /> {condition}{" "}
              <span className="font-mono">{count(answer?.conditions[condition] ?? 0)}</span>
            </button>
          ))}
          {query.place && (
            <button type="button" className="chip" aria-pressed onClick={() => void session.ask({ place: null })}>
              around {hex(query.place.from)} ✕
            </button>
          )}
          {query.folder !== null && !tree && (
            <button type="button" className="chip" aria-pressed onClick={() => void session.ask({ folder: null })}>
              in {folderWords(query.folder, job.scan.volumes)} ✕
            </button>
          )}
          <p className="sr-only" role="status">
            {answer ? `${plural(answer.total, "find")} · ${bytes(answer.bytes)}` : "counting…"}
          </p>
          <label className="ml-auto">
            <span className="sr-only">Sort</span>
            <select
              className="h-8 rounded-field border border-line bg-base-100 px-2 font-semibold text-ink"
              value={query.sort}
              onChange={(event) => void session.ask({ sort: event.target.value as Query["sort"] })}
            >
              {Object.entries(SORTS).map(([sort, words]) => (
                <option key={sort} value={sort}>
                  {words}
                </option>
              ))}
            </select>
          </label>
          <button
            type="button"
            className="button h-8 w-8 px-0"
            aria-label={look === "wall" ? "Show as a list" : "Show as a wall"}
            title={look === "wall" ? "as a list" : "as a wall"}
            onClick={() => setLook(look === "wall" ? "list" : "wall")}
          >
            {look === "wall" ? <List className="size-4" aria-hidden="true" /> : <LayoutGrid className="size-4" aria-hidden="true" />}
          </button>
        </div>
        <div className="flex min-h-0 flex-1 gap-3.5">
          {tree && <Folders />}
          {answer && answer.total === 0 ? (
            <div className="flex-1 p-8">
              <p className="text-lg font-bold">{filtered ? "Nothing passes these filters." : "Nothing was found yet."}</p>
              <p className="mt-1 text-second">
                {filtered
                  ? query.states.includes("erased") && noErased
                    ? noErased
                    : "Take a filter off, or show all."
                  : job.scan.status === "done"
                    ? "The storage was read to its end, and nothing that can be known is left in it."
                    : "Start the scan at Copy & scan; finds appear here as they come."}
              </p>
            </div>
          ) : (
            <Wall look={look} onOpen={() => setOpened(true)} />
          )}
          <Inspector find={selected} onOpen={() => setOpened(true)} />
        </div>
      </div>
      <Tray />
      {opened && selected && <PreviewDialog find={selected} onClose={() => setOpened(false)} />}
    </main>
  );
}
