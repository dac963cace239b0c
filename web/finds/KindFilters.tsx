import { FolderTree, SlidersHorizontal } from "lucide-react";
import { KIND_WORDS, KINDS } from "../../core/finds/find.ts";
import { PeopleChips } from "../people/PeopleChips.tsx";
import { inUse } from "../session/session-state.ts";
import { useMedia, useSession, useSessionState } from "../session/use-session.ts";
import { SearchField } from "../shared/SearchField.tsx";
import { FilterChip } from "./FilterChip.tsx";
import { isFiltered, showAll, toggled } from "./filters.ts";

/** First row of filters: folders, media where there are several, kinds, words. */
export function KindFilters({ tree, onTree, facts, onFacts }: { tree: boolean; onTree: () => void; facts: boolean; onFacts: () => void }) {
  const session = useSession();
  const query = useSessionState((state) => state.query);
  const answer = useSessionState((state) => state.answer);
  return (
    <div className="flex flex-wrap items-center gap-2" role="toolbar" aria-label="Kinds">
      <button type="button" className="chip" aria-pressed={tree} onClick={onTree}>
        <FolderTree className="size-4" aria-hidden="true" /> folders
      </button>
      <button type="button" className="chip" aria-pressed={facts} title="format, size, length, pixels" onClick={onFacts}>
        <SlidersHorizontal className="size-4" aria-hidden="true" /> facts
      </button>
      <MediaChips />
      {KINDS.filter((kind) => (answer?.kinds[kind] ?? 0) > 0 || query.kinds.includes(kind)).map((kind) => (
        <FilterChip
          key={kind}
          isOn={query.kinds.includes(kind)}
          finds={answer?.kinds[kind]}
          onToggle={() => void session.ask({ kinds: toggled(query.kinds, kind) })}
        >
          {KIND_WORDS[kind]}
        </FilterChip>
      ))}
      <PeopleChips />
      <span className="ml-auto" />
      {isFiltered(query) && (
        <button type="button" className="button h-8" onClick={() => void session.ask(showAll(query))}>
          Show all
        </button>
      )}
      <SearchField
        label="Search names and folders"
        placeholder="Names and folders"
        value={query.words}
        onChange={(words) => void session.ask({ words })}
        className="w-52"
      />
    </div>
  );
}

/** A chip for each medium, where the ticket has several. */
function MediaChips() {
  const session = useSession();
  const media = inUse(useMedia());
  const chosen = useSessionState((state) => state.query.media);
  const counts = useSessionState((state) => state.answer?.media);
  if (media.length < 2) return null;
  return (
    <>
      {media.map(({ medium: { id, name } }) => (
        <FilterChip
          key={id}
          isOn={chosen.includes(id)}
          finds={counts?.get(id)}
          title={`only what lies on ${name}`}
          onToggle={() => void session.ask({ media: toggled(chosen, id) })}
        >
          <span className="max-w-40 truncate">{name}</span>
        </FilterChip>
      ))}
      <span className="h-5 w-px bg-line" aria-hidden="true" />
    </>
  );
}
