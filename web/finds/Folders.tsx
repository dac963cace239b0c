import { ChevronDown, ChevronRight } from "lucide-react";
import { useEffect, useState } from "react";
import type { FolderCount } from "../../core/finds/folder-table.ts";
import { useMedia, useSession, useSessionState } from "../session/use-session.ts";
import { StateShape } from "../shared/Marks.tsx";
import { count } from "../shared/words.ts";
import { volumeOfKey } from "./folder-words.ts";

/** Folders shown of one: more are found faster by the search. */
const MOST = 300;

/** Where things lay: volumes, folders in them, erased ones in their place. A click shows what is in one. */
export function Folders() {
  return (
    <nav className="panel mb-3 flex w-60 shrink-0 flex-col overflow-hidden" aria-label="Folders">
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls */}
      <div className="min-h-0 flex-1 overflow-auto p-2" tabIndex={0} role="group" aria-label="Folder tree">
        <Branch under="" depth={0} />
      </div>
    </nav>
  );
}

/** The folders right under one. They are asked for anew when the finds or the other filters change. */
function Branch({ under, depth }: { under: string; depth: number }) {
  const session = useSession();
  const answer = useSessionState((state) => state.answer);
  const query = useSessionState((state) => state.query);
  const [folders, setFolders] = useState<readonly FolderCount[] | null>(null);
  useEffect(() => {
    let current = true;
    if (answer) void session.looking.folders(query, under).then((list) => current && setFolders(list));
    return () => {
      current = false;
    };
  }, [session, answer, query, under]);
  if (folders === null) return null;
  const only = depth === 0 && folders.length === 1;
  return (
    <ul className={depth > 0 ? "ml-3 border-l border-dashed border-line pl-1" : ""}>
      {folders.slice(0, MOST).map((folder) => (
        <Row key={folder.key} folder={folder} depth={depth} openAtFirst={only} />
      ))}
      {folders.length > MOST && (
        <li className="px-2 text-[13px] text-second">and {count(folders.length - MOST)} more: search for their names</li>
      )}
    </ul>
  );
}

function Row({ folder, depth, openAtFirst }: { folder: FolderCount; depth: number; openAtFirst: boolean }) {
  const session = useSession();
  const media = useMedia();
  const chosen = useSessionState((state) => state.query.folder);
  const [open, setOpen] = useState(openAtFirst || (chosen?.startsWith(folder.key) ?? false));
  const name = folder.name ?? (folder.key.endsWith("?") ? "folder not known" : volumeOfKey(folder.key, media));
  const isChosen = chosen === folder.key;
  return (
    <li>
      <div className="flex items-center">
        {folder.hasFolders ? (
          <button
            type="button"
            className="grid size-6 shrink-0 place-items-center rounded"
            aria-label={`${open ? "Close" : "Open"} ${name}`}
            aria-expanded={open}
            onClick={() => setOpen(!open)}
          >
            {open ? <ChevronDown className="size-4" aria-hidden="true" /> : <ChevronRight className="size-4" aria-hidden="true" />}
          </button>
        ) : (
          <span className="size-6 shrink-0" />
        )}
        <button
          type="button"
          className={`flex min-w-0 flex-1 items-center gap-1.5 rounded px-1 py-0.5 text-left text-sm ${isChosen ? "bg-glow font-bold" : "hover:bg-base-200"}`}
          aria-pressed={isChosen}
          title={folder.erased ? `${name}: nothing in it is there any more` : name}
          onClick={() => void session.ask({ folder: isChosen ? null : folder.key })}
        >
          {folder.erased && depth > 0 && <StateShape state="erased" />}
          <span className="min-w-0 truncate">{name}</span>
          <span className={`ml-auto pl-1 font-mono text-[13px] ${folder.count === 0 ? "text-second" : ""}`}>{count(folder.count)}</span>
        </button>
      </div>
      {open && folder.hasFolders && <Branch under={folder.key} depth={depth + 1} />}
    </li>
  );
}
