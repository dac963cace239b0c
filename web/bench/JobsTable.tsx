import { useLiveQuery } from "dexie-react-hooks";
import { Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { wantWords } from "../../core/triage/intake.ts";
import { CopyRecord } from "../kept/copy.ts";
import { database, removeJob } from "../kept/database.ts";
import { Job } from "../kept/job.ts";
import { plural, touched } from "../shared/words.ts";
import { partDone, scanWords, storageWords } from "../shell/scan-words.ts";

/** Kept jobs, newest first. One that cannot be understood is left out rather than breaking the bench. */
const loadJobs = async (): Promise<Job[]> =>
  (await database.jobs.orderBy("touchedAt").reverse().toArray()).flatMap((row) => Job.safeParse(row).data ?? []);

const loadCopies = async (): Promise<Map<number, CopyRecord>> =>
  new Map(
    (await database.copies.toArray()).flatMap((row) => {
      const copy = CopyRecord.safeParse(row).data;
      return copy ? [[copy.job, copy] as const] : [];
    }),
  );

const matches = (job: Job, words: string): boolean =>
  words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => `${job.number} ${job.customer} ${job.device} ${wantsOf(job)} ${job.source?.name ?? ""}`.toLowerCase().includes(word));

const wantsOf = (job: Job): string => job.intake.wants.map(wantWords).join(", ");

/** Whether a job is finished: something was given back. */
const isDone = (job: Job): boolean => job.handedOver !== null;

/** Where a job stands: the station that it goes on at. */
function standing(job: Job, copy: CopyRecord | undefined): { to: string; station: string; words: string } {
  if (job.handedOver)
    return {
      to: "hand-over",
      station: "Hand-over",
      words: `${job.handedOver.equal} of ${plural(job.handedOver.files, "file")} given back`,
    };
  if (job.tray.length > 0) return { to: "finds", station: "Finds", words: `${job.tray.length} in tray` };
  if (!job.source && copy && copy.status !== "found") return { to: "scan", station: "Copy & scan", words: storageWords(copy) };
  if (!job.source) return { to: "intake", station: "Intake", words: storageWords(null) };
  return { to: "scan", station: "Copy & scan", words: scanWords(job.scan, null) };
}

export function JobsTable({ words, onNew }: { words: string; onNew: () => void }) {
  const jobs = useLiveQuery(loadJobs);
  const copies = useLiveQuery(loadCopies) ?? new Map<number, CopyRecord>();
  const [shown, setShown] = useState<"open" | "done">("open");
  const navigate = useNavigate();
  const found = (jobs ?? []).filter((job) => matches(job, words));
  const rows = found.filter((job) => isDone(job) === (shown === "done"));

  return (
    <section className="flex min-h-72 flex-1 flex-col gap-3 p-5" aria-label="Jobs">
      <div className="flex items-center gap-2">
        <h2 className="mr-1 text-lg font-bold">Jobs</h2>
        {(["open", "done"] as const).map((which) => (
          <button key={which} type="button" className="chip" aria-pressed={shown === which} onClick={() => setShown(which)}>
            {which} <span className="font-mono">{found.filter((job) => isDone(job) === (which === "done")).length}</span>
          </button>
        ))}
        <span className="ml-auto text-sm text-second">last touched first</span>
        <button type="button" className="button button-main" onClick={onNew}>
          <Plus className="size-4" aria-hidden="true" /> New ticket
        </button>
      </div>
      <div className="panel min-h-24 flex-1 overflow-auto">
        <table className="w-full">
          <thead className="sticky top-0 bg-base-100 text-left text-[13px] text-second">
            <tr className="border-b border-line [&>th]:px-3 [&>th]:py-2">
              <th>Ticket</th>
              <th>Customer</th>
              <th>Device</th>
              <th>Wants</th>
              <th>Where it stands</th>
              <th className="text-right">Touched</th>
              <th>
                <span className="sr-only">Remove</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((job) => {
              const { to, station, words: state } = standing(job, copies.get(job.id));
              const open = () => navigate(`/ticket/${job.id}/${to}`);
              return (
                <tr key={job.id} className="cursor-pointer border-b border-line hover:bg-glow [&>td]:px-3 [&>td]:py-2.5" onClick={open}>
                  <td>
                    <button type="button" className="rounded font-mono font-bold underline-offset-2 hover:underline" onClick={open}>
                      {job.number}
                    </button>
                  </td>
                  <td className="font-bold">{job.customer || "not noted yet"}</td>
                  <td>{job.device || job.source?.name}</td>
                  <td className="max-w-56 truncate">{wantsOf(job)}</td>
                  <td>
                    <span className="mr-2 inline-block h-2 w-14 overflow-hidden rounded-full bg-base-300 align-middle" aria-hidden="true">
                      <span className="block h-full bg-primary" style={{ width: `${partDone(job.scan) * 100}%` }} />
                    </span>
                    <strong>{station}</strong> <span className="text-second">· {state}</span>
                  </td>
                  <td className="text-right whitespace-nowrap text-second">{touched(job.touchedAt)}</td>
                  <td className="w-10">
                    <button
                      type="button"
                      className="button h-8 w-8 px-0"
                      aria-label={`Remove ticket ${job.number}`}
                      title="Forget this job; the storage is not touched"
                      onClick={(event) => {
                        event.stopPropagation();
                        if (confirm(`Forget ticket ${job.number} and all that was found in it? The storage itself is not touched.`))
                          void removeJob(job.id);
                      }}
                    >
                      <Trash2 className="size-4" aria-hidden="true" />
                    </button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
        {jobs && rows.length === 0 && (
          <p className="p-6 text-second">
            {words
              ? `No ${shown} job speaks of “${words}”.`
              : shown === "open"
                ? "No open job. Begin with a new ticket, or drop a disk image above."
                : "No job was handed over yet."}
          </p>
        )}
      </div>
    </section>
  );
}
