import { Check, TriangleAlert } from "lucide-react";
import { type LedgerEntry, stillOpen, TAKEN_BACK, tickedBack } from "../../core/phones/ledger.ts";
import { phoneDesk, usePhone } from "../phones/phones.ts";
import { useJob, useSession } from "../session/use-session.ts";
import { moment } from "../shared/words.ts";

/** What was changed on the phone, and what of it is taken back? */
export function LogbookScreen() {
  const { ledger } = useJob();
  const open = stillOpen(ledger).length;
  return (
    <main className="flex min-h-0 flex-1 flex-col gap-3 overflow-auto p-4">
      <div>
        <h1 className="text-lg font-bold">What was changed on the phone</h1>
        <p className="text-second" role="status">
          {ledger.length === 0
            ? "Nothing so far. Nothing is ever installed."
            : open === 0
              ? "Nothing is left to be taken back. Nothing was installed."
              : `${open} of ${ledger.length} still to be taken back. Nothing was installed.`}
        </p>
      </div>
      <ol className="flex max-w-4xl flex-col gap-2" aria-label="Changes">
        {ledger.map((entry) => (
          <Entry key={`${entry.at} ${entry.change} ${entry.detail}`} entry={entry} />
        ))}
      </ol>
    </main>
  );
}

function Entry({ entry }: { entry: LedgerEntry }) {
  const session = useSession();
  const { ledger } = useJob();
  const phone = usePhone(entry.phone);
  const { how, open } = TAKEN_BACK[entry.change];
  const done = entry.takenBackAt !== null;
  const tick = () => void session.changeJob({ ledger: tickedBack(ledger, entry.phone, [entry.change], Date.now()) });
  return (
    <li className="panel flex items-start gap-3 px-4 py-3">
      <span
        className={`mt-0.5 flex size-6 shrink-0 items-center justify-center rounded-[5px] border-2 ${done ? "border-primary bg-primary text-primary-content" : "border-ink"}`}
      >
        {done ? (
          <Check className="size-4" strokeWidth={3} aria-label="taken back" />
        ) : open ? (
          <TriangleAlert className="size-3.5" aria-label="still open" />
        ) : null}
      </span>
      <div className="min-w-0 flex-1">
        <p>
          <strong>{entry.change}</strong>
          {entry.detail && `: ${entry.detail}`} <span className="text-[13.5px] text-second">on {entry.phone}</span>
        </p>
        <p className="text-[13.5px] text-second">
          {moment(entry.at)}
          {done && entry.takenBackAt !== null ? ` · taken back ${moment(entry.takenBackAt)}` : ` · ${how}`}
        </p>
      </div>
      {!done && open && entry.change === "elevated access taken" && phone && (
        <button type="button" className="button" onClick={() => void phoneDesk().giveElevatedBack(phone.id)}>
          Give it back
        </button>
      )}
      {!done && open && entry.change === "this computer allowed" && phone?.state === "ready" && (
        <button type="button" className="button" onClick={() => void phoneDesk().askAgain(phone.id)}>
          Check: does it ask again?
        </button>
      )}
      {!done && open && (
        <button type="button" className="button" title="When it cannot be seen from here any more" onClick={tick}>
          I have seen it done
        </button>
      )}
    </li>
  );
}
