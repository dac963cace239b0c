import { ArrowLeft } from "lucide-react";
import { Link } from "react-router";
import { useJob } from "../session/use-session.ts";
import { SearchField } from "../shared/SearchField.tsx";
import { PeopleChips } from "./PeopleChips.tsx";

/** First row over conversations, contacts, calls and the calendar: the other rooms, and one search. */
export function PeopleBar({ words, onWords, placeholder }: { words: string; onWords: (words: string) => void; placeholder: string }) {
  const { id } = useJob();
  return (
    <div className="flex flex-wrap items-center gap-2" role="toolbar" aria-label="Kinds">
      <Link to={`/ticket/${id}/finds`} className="chip">
        <ArrowLeft className="size-4" aria-hidden="true" /> photos and files
      </Link>
      <PeopleChips />
      <span className="ml-auto" />
      <SearchField label={placeholder} placeholder={placeholder} value={words} onChange={onWords} className="w-72" />
    </div>
  );
}
