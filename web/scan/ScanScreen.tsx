import { ArrowRight, Pause, Play, Square } from "lucide-react";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { KIND_WORDS, KINDS } from "../../core/finds/find.ts";
import type { Depth } from "../../core/scan/events.ts";
import type { SourceRef } from "../kept/job.ts";
import { useJob, useSession, useSessionState } from "../session/use-session.ts";
import { whyNoErased } from "../session/why-empty.ts";
import { EncryptedNotice } from "../shared/EncryptedNotice.tsx";
import { StateShape } from "../shared/Marks.tsx";
import { bytes, count, duration, plural } from "../shared/words.ts";
import { partDone } from "../shell/scan-words.ts";
import { NewestFinds } from "./NewestFinds.tsx";
import { NoStorage } from "./NoStorage.tsx";
import { Passes } from "./Passes.tsx";
import { StorageMap } from "./StorageMap.tsx";
import { Troubles } from "./Troubles.tsx";
import { Volumes } from "./Volumes.tsx";

/** Is it working, what has it found, how long still, is the medium dying? */
export function ScanScreen() {
  const { source } = useJob();
  return source ? <Scan source={source} /> : <NoStorage />;
}

function Scan({ source }: { source: SourceRef }) {
  const job = useJob();
  const session = useSession();
  const navigate = useNavigate();
  const news = useSessionState((state) => state.news);
  const open = useSessionState((state) => state.storage === "open");
  const { scan } = job;
  const [depth, setDepth] = useState<Depth>(scan.depth);
  const running = scan.status === "running";
  const lost = scan.unreadable.reduce((sum, { length }) => sum + length, 0);

  return (
    <main className="flex min-h-0 flex-1 flex-col gap-3 overflow-auto p-4">
      <div className="flex items-center gap-3">
        <h1 className="min-w-0 truncate text-lg font-bold">
          {source.name} <span className="font-normal text-second">· {bytes(source.size)} · read-only</span>
        </h1>
        <fieldset className="ml-auto flex items-center gap-2">
          <legend className="sr-only">Depth</legend>
          <span className="text-sm text-second" aria-hidden="true">
            Depth
          </span>
          {(["quick", "deep"] as const).map((one) => (
            <button
              key={one}
              type="button"
              className="chip"
              aria-pressed={depth === one}
              disabled={running}
              onClick={() => setDepth(one)}
              title={one === "quick" ? "what the lists still know" : "all free space by content as well"}
            >
              {one}
            </button>
          ))}
        </fieldset>
        <Controls depth={depth} open={open} />
      </div>

      <section className="panel p-4" aria-label="Progress">
        <p className="float-right flex items-baseline gap-3" role="status">
          <span className="font-mono text-xl font-bold">{Math.floor(partDone(scan) * 100)} %</span>
          <span className="text-[13.5px] text-second">
            {scan.progress.total > 0 && scan.status !== "done"
              ? `${bytes(scan.progress.done)} of ${bytes(scan.progress.total)} of this pass`
              : bytes(source.size)}
            {running && news?.pace ? ` · ${bytes(news.pace)}/s` : ""}
            {running && news?.secondsLeft !== null && news?.secondsLeft !== undefined ? ` · ${duration(news.secondsLeft)} left` : ""}
            {scan.status === "done" ? ` · done in ${duration(scan.seconds)}` : ""}
            {lost > 0 ? ` · unreadable: ${bytes(lost)} in ${plural(scan.unreadable.length, "place")}` : ""}
          </span>
        </p>
        <StorageMap
          picture={news?.map ?? null}
          size={source.size}
          volumes={scan.volumes}
          onPlace={(from, to) => {
            void session.ask({ place: { from, to } });
            navigate("../finds");
          }}
        />
      </section>

      <EncryptedNotice volumes={scan.volumes} />
      <Volumes volumes={scan.volumes} />

      {scan.because && (
        <p role="alert" className="rounded-box bg-warning px-4 py-3 text-warning-content">
          <strong>{scan.because}</strong> What was found until then is kept; go on tries again from there.
        </p>
      )}
      <Troubles troubles={scan.troubles} />
      <Passes scan={scan} />

      <ul className="grid grid-cols-8 gap-2" aria-label="Finds by kind">
        {KINDS.map((kind) => {
          const states = scan.counts[kind];
          return (
            <li key={kind} className="panel px-3 py-2">
              <p className="text-sm">{KIND_WORDS[kind]}</p>
              <p className="font-mono text-lg leading-6 font-bold">{count(states.present + states.binned + states.erased)}</p>
              <p className="flex items-center gap-1.5 text-[13px]">
                <StateShape state="erased" /> {count(states.erased)} erased
              </p>
            </li>
          );
        })}
      </ul>

      {whyNoErased(job) && (
        <p className="text-[13.5px] text-second">
          <strong className="text-ink">Nothing erased.</strong> {whyNoErased(job)}
        </p>
      )}

      <section aria-label="Newest finds">
        <div className="mb-2 flex items-center gap-3">
          <h2 className="font-bold">Newest finds</h2>
          <span className="text-sm text-second">look and choose while the scan goes on</span>
          {scan.status !== "done" && (
            <Link to="../finds" className="button ml-auto h-8">
              Open Finds <ArrowRight className="size-4" aria-hidden="true" />
            </Link>
          )}
        </div>
        <NewestFinds ids={news?.newest ?? []} />
      </section>
    </main>
  );
}

/** Start, pause, stop, go on: what can be done now. */
function Controls({ depth, open }: { depth: Depth; open: boolean }) {
  const { scan } = useJob();
  const session = useSession();
  if (scan.status === "running")
    return (
      <>
        <button type="button" className="button" onClick={() => session.pause()}>
          <Pause className="size-4" aria-hidden="true" /> Pause
        </button>
        <button type="button" className="button" onClick={() => session.stop()}>
          <Square className="size-4" aria-hidden="true" /> Stop
        </button>
      </>
    );
  const goesOn = scan.status === "paused" || scan.status === "stopped" || scan.status === "failed";
  const deeper = scan.status === "done" && scan.depth === "quick" && depth === "deep";
  const words =
    goesOn && depth === scan.depth ? "Go on" : deeper ? "Search deeper" : scan.status === "new" ? "Start the scan" : "Scan again";
  // What was found is what one came for; scanning again is for those who look for it.
  const found = scan.status === "done" && !deeper;
  return (
    <>
      {found && (
        <Link to="../finds" className="button button-main">
          Open Finds <ArrowRight className="size-4" aria-hidden="true" />
        </Link>
      )}
      <button type="button" className={found ? "button" : "button button-main"} disabled={!open} onClick={() => void session.start(depth)}>
        <Play className="size-4" aria-hidden="true" /> {words}
      </button>
    </>
  );
}
