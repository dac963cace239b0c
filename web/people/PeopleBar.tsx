import { ArrowLeft, X } from "lucide-react";
import { Link } from "react-router";
import { useJob, useSessionState } from "../session/use-session.ts";
import { SearchField } from "../shared/SearchField.tsx";
import { count } from "../shared/words.ts";
import { PeopleChips } from "./PeopleChips.tsx";
import type { Narrowed } from "./use-narrowed.ts";

/** First row over conversations, contacts, calls and the calendar: the other rooms, and one search. */
export function PeopleBar({ narrowed, placeholder }: { narrowed: Narrowed; placeholder: string }) {
  const { words, onWords, want, onShowAll } = narrowed;
  const { id } = useJob();
  const files = useSessionState(({ answer }) => answer?.total ?? 0);
  return (
    <div className="flex flex-wrap items-center gap-2" role="toolbar" aria-label="Kinds">
      <Link to={`/ticket/${id}/finds`} className="chip">
        <ArrowLeft className="size-4" aria-hidden="true" /> photos and files
        {words && files > 0 && (
          <span className="rounded bg-accent px-1 text-sm text-accent-content" title={`${count(files)} are called so`}>
            {count(files)} <span className="sr-only">hold the words</span>
          </span>
        )}
      </Link>
      <PeopleChips />
      {want && (
        <button type="button" className="chip border-ink" aria-label={`Only ${want}: show all`} onClick={onShowAll}>
          only {want} <X className="size-4" aria-hidden="true" />
        </button>
      )}
      <span className="ml-auto" />
      <SearchField label={placeholder} placeholder={placeholder} value={words} onChange={onWords} className="w-72" />
    </div>
  );
}
