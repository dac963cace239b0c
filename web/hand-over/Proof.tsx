import { CircleCheck, Download, Eye, FileText, TriangleAlert } from "lucide-react";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { useJob, useSession, useSessionState } from "../session/use-session.ts";
import { Warning } from "../shared/Warning.tsx";
import { plural } from "../shared/words.ts";

/** Each file written, read back, compared: did it arrive intact? */
export function Proof() {
  const session = useSession();
  const navigate = useNavigate();
  const job = useJob();
  const { news, checked, result, busy } = useSessionState((state) => state.handOver);
  const summary = useAddress(result?.ok ? result.summary : null);
  const archive = useAddress(result?.ok ? result.archive : null);
  const part = news ? (news.written + checked.length) / (2 * Math.max(1, news.total)) : 0;
  const equal = checked.filter(({ outcome }) => outcome === "equal").length;
  return (
    <section className="panel flex min-h-0 flex-col p-4" aria-label="Proof">
      <div className="flex items-baseline justify-between gap-3">
        <h2 className="text-lg font-bold">Proof</h2>
        <p className="text-sm text-second" role="status">
          {news ? `${news.written} of ${news.total} written, ${checked.length} read back` : ""}
        </p>
      </div>
      {news && (
        <div className="mt-2 h-2.5 overflow-hidden rounded-full bg-base-300" aria-hidden="true">
          <div className="h-full bg-primary" style={{ width: `${(result?.ok ? 1 : part) * 100}%` }} />
        </div>
      )}
      {!news && !result && (
        <p className="mt-3 text-second">
          Every file is listed here once it is written, read back and compared with what lies on the storage.
        </p>
      )}
      <ul className="mt-2 min-h-0 flex-1 overflow-y-auto" aria-label="Checked files">
        {checked.map(({ path, outcome, because }) => (
          <li key={path} className="flex items-start gap-2 border-b border-line py-1.5 text-sm">
            {outcome === "equal" ? (
              <CircleCheck className="mt-0.5 size-4 shrink-0 text-primary" aria-hidden="true" />
            ) : (
              <TriangleAlert className="mt-0.5 size-4 shrink-0" aria-hidden="true" />
            )}
            <span className="min-w-0 flex-1 font-mono text-[13px] wrap-anywhere">{path}</span>
            <span className="max-w-36 text-right text-second">{because ?? outcome}</span>
          </li>
        ))}
      </ul>
      {result && !result.ok && <Warning className="mt-2">{result.because}</Warning>}
      {result?.ok && (
        <div className="mt-3 border-t border-dashed border-line pt-3">
          <p className="font-bold">
            {equal} of {plural(result.files, "file")} arrived intact{busy ? "" : ` in “${result.folder}”`}.
          </p>
          {result.holes > 0 && (
            <p className="mt-1">
              <strong>{plural(result.holes, "file")} with holes</strong>: the medium did not give all of{" "}
              {result.holes === 1 ? "it" : "them"}. Zeros stand where bytes are missing, and the summary says how many.
            </p>
          )}
          {result.notes.map((note) => (
            <p key={note} className="mt-1">
              {note}
            </p>
          ))}
          <div className="mt-2 flex flex-wrap gap-2">
            {summary && (
              <a className="button button-main" href={summary} target="_blank" rel="noreferrer">
                <FileText className="size-4" aria-hidden="true" /> Open the summary
              </a>
            )}
            <button
              type="button"
              className="button"
              onClick={() => void session.looking.lookAt("what was written").then(() => navigate("../finds"))}
            >
              <Eye className="size-4" aria-hidden="true" /> Look at what was written
            </button>
            {archive && (
              <a className="button" href={archive} download={`${result.folder}.zip`}>
                <Download className="size-4" aria-hidden="true" /> Save the archive
              </a>
            )}
          </div>
        </div>
      )}
      {!result && job.handedOver && !busy && (
        <p className="mt-2 text-sm text-second">
          Given back before: {job.handedOver.equal} of {plural(job.handedOver.files, "file")}, to “{job.handedOver.to}”.
        </p>
      )}
    </section>
  );
}

/** The address of a page or file that exists only in memory. */
function useAddress(content: string | Blob | null): string | null {
  const [address, setAddress] = useState<string | null>(null);
  useEffect(() => {
    if (content === null) {
      setAddress(null);
      return;
    }
    const url = URL.createObjectURL(typeof content === "string" ? new Blob([content], { type: "text/html;charset=utf-8" }) : content);
    setAddress(url);
    return () => URL.revokeObjectURL(url);
  }, [content]);
  return address;
}
