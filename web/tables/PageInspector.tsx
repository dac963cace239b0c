import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useMemo, useRef, useState } from "react";
import type { RecordEvidence } from "../../core/finds/record.ts";
import type { StretchKind } from "../../core/sqlite/format/page-map.ts";
import { useSession } from "../session/use-session.ts";
import { Modal } from "../shared/Modal.tsx";
import { count, hex } from "../shared/words.ts";
import type { PageView } from "../worker/reading/tables-protocol.ts";
import { PLACE_WORDS } from "./cell-words.ts";

const PER_LINE = 16;
const LINE = 22;

/** Each kind of stretch by a ground, an underline and a word: never by colour alone. */
const LOOKS: Record<StretchKind, { words: string; look: string }> = {
  "database header": { words: "header of the database", look: "bg-base-300" },
  "page header": { words: "header of the page", look: "bg-base-300" },
  "cell pointers": { words: "where its rows begin", look: "bg-base-300 italic" },
  cell: { words: "rows that are there", look: "bg-primary/15" },
  freed: { words: "freed among the rows", look: "underline decoration-2" },
  unallocated: { words: "free before the rows", look: "text-second" },
  content: { words: "content", look: "" },
};

const FILES: Record<PageView["file"], string> = { main: "the database", wal: "its write-ahead log", journal: "its rollback journal" };

/** One page of a database, byte by byte, with the row that was read from it lit. */
export function PageInspector({ evidence, onClose }: { evidence: RecordEvidence; onClose: () => void }) {
  const session = useSession();
  const [view, setView] = useState<PageView | null | "reading">("reading");
  useEffect(() => void session.desks.reading.pageOf(evidence).then(setView), [session, evidence]);
  return (
    <Modal label="Page" box="h-[88vh] w-[72rem] max-w-[94vw] p-4" onClose={onClose}>
      {(dialog) => (
        <>
          {view === "reading" ? (
            <p role="status">Reading the page…</p>
          ) : view === null ? (
            <p role="alert">This page cannot be read: the storage is closed, or the medium does not give it.</p>
          ) : (
            <Page view={view} what={evidence.what} />
          )}
          <p className="text-right">
            <button type="button" className="button" onClick={() => dialog.current?.close()}>
              Close <kbd className="key">Esc</kbd>
            </button>
          </p>
        </>
      )}
    </Modal>
  );
}

/** What each byte of the page is, as an index into the stretches. */
function kindsOf({ bytes, map }: PageView): Uint16Array {
  const kinds = new Uint16Array(bytes.length).fill(0xffff);
  for (const [index, { from, to }] of map.stretches.entries()) kinds.fill(index, from, to);
  return kinds;
}

function Page({ view, what }: { view: PageView; what: string }) {
  const { bytes, map, page, file, at } = view;
  const scroller = useRef<HTMLDivElement>(null);
  const kinds = useMemo(() => kindsOf(view), [view]);
  const row = { from: view.cell, to: view.cellEnd };
  const virtual = useVirtualizer({
    count: Math.ceil(bytes.length / PER_LINE),
    getScrollElement: () => scroller.current,
    estimateSize: () => LINE,
    overscan: 10,
  });
  useEffect(() => virtual.scrollToIndex(Math.floor(view.cell / PER_LINE), { align: "center" }), [virtual, view]);
  const share = (kind: StretchKind) => map.stretches.filter((one) => one.kind === kind).reduce((sum, { from, to }) => sum + to - from, 0);
  const present = (Object.keys(LOOKS) as StretchKind[]).filter((kind) => share(kind) > 0);
  return (
    <>
      <div>
        <h2 className="text-lg font-bold">
          Page {page} of {FILES[file]} <span className="font-normal text-second">· {map.type}</span>
        </h2>
        <p className="text-second">
          {count(map.cells)} rows are there. The row was read {PLACE_WORDS[what] ?? what}, from byte {count(row.from)} of the page on (
          <span className="font-mono text-sm">{hex(at + row.from)}</span> in {FILES[file]}).
        </p>
      </div>
      <ul className="flex flex-wrap gap-x-4 gap-y-1 text-[13px]" aria-label="What the bytes are">
        <li className="flex items-center gap-1.5">
          <span className="rounded bg-accent px-1.5 font-mono text-accent-content">00</span> the row
        </li>
        {present.map((kind) => (
          <li key={kind} className="flex items-center gap-1.5">
            <span className={`rounded px-1.5 font-mono ${LOOKS[kind].look}`}>00</span> {LOOKS[kind].words}{" "}
            <span className="text-second">{count(share(kind))} bytes</span>
          </li>
        ))}
      </ul>
      <div
        ref={scroller}
        className="min-h-0 flex-1 overflow-auto rounded-field border border-line bg-base-100 p-2 font-mono text-[13px]"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls
        tabIndex={0}
        role="group"
        aria-label="Bytes of the page"
      >
        <div className="relative" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map(({ index, start }) => (
            <div key={index} className="absolute flex gap-4" style={{ transform: `translateY(${start}px)`, height: LINE }}>
              <span className="w-14 text-right text-second">{(index * PER_LINE).toString(16).toUpperCase().padStart(4, "0")}</span>
              <span className="flex">
                {Array.from(bytes.subarray(index * PER_LINE, (index + 1) * PER_LINE), (byte, column) => {
                  const place = index * PER_LINE + column;
                  const kind = map.stretches[kinds[place]]?.kind;
                  const lit = place >= row.from && place < row.to;
                  return (
                    <span
                      key={place}
                      className={`w-[26px] text-center ${lit ? "bg-accent text-accent-content" : kind ? LOOKS[kind].look : ""}`}
                    >
                      {byte.toString(16).toUpperCase().padStart(2, "0")}
                    </span>
                  );
                })}
              </span>
              <span className="whitespace-pre text-second">{printable(bytes.subarray(index * PER_LINE, (index + 1) * PER_LINE))}</span>
            </div>
          ))}
        </div>
      </div>
    </>
  );
}

const printable = (bytes: Uint8Array): string =>
  Array.from(bytes, (byte) => (byte >= 0x20 && byte < 0x7f ? String.fromCharCode(byte) : "·")).join("");
