import { portableSha256 } from "../../core/bytes/hash.ts";
import { patientSource } from "../../core/bytes/patient-source.ts";
import type { ByteSource } from "../../core/bytes/source.ts";
import type { Find } from "../../core/finds/find.ts";
import { planFiles } from "../../core/handover/plan.ts";
import { whyNot } from "../../core/handover/refusals.ts";
import { summaryPage } from "../../core/handover/summary.ts";
import { type WrittenFile, writeFiles } from "../../core/handover/write.ts";
import type { Job } from "../kept/job.ts";
import { FolderDestination } from "./folder-destination.ts";
import type { HandOverNews, HandOverResult, Target } from "./protocol.ts";
import { ZipDestination } from "./zip-destination.ts";

export const SUMMARY = "summary.html";

/** Writes the chosen finds where the person said, checks them, and writes the summary. */
export async function giveBack(
  job: Job,
  finds: readonly Find[],
  source: ByteSource,
  target: Target,
  notify: (news: HandOverNews) => void,
): Promise<HandOverResult> {
  const files = planFiles(finds);
  try {
    const destination =
      target.kind === "folder" ? await FolderDestination.make(target.handle, target.folder) : await ZipDestination.make(target.folder);
    const checked: WrittenFile[] = [];
    const notes: string[] = [];
    let written = 0;
    for await (const event of writeFiles(files, patientSource(source), destination, await portableSha256())) {
      if (event.type === "written") notify({ total: files.length, written: ++written, checked: null });
      else if (event.type === "no list") notes.push(`The list of hashes could not be written: ${event.because}.`);
      else {
        checked.push(event.file);
        const { find: _, ...rest } = event.file;
        notify({ total: files.length, written, checked: rest });
      }
    }
    const summary = summaryPage({
      ticket: job.number,
      customer: job.customer,
      device: job.device,
      source: source.name,
      sourceBytes: source.size,
      at: Date.now(),
      files: checked,
    });
    if (destination instanceof FolderDestination)
      await destination
        .write(SUMMARY, once(summary))
        .catch((cause: unknown) => notes.push(`The summary could not be written beside them: ${whyNot(cause)}. It can be opened here.`));
    return {
      ok: true,
      folder: destination.folder,
      equal: checked.filter(({ outcome }) => outcome === "equal").length,
      files: checked.length,
      holes: checked.filter(({ outcome }) => outcome === "holes").length,
      notes,
      summary,
      archive: destination instanceof ZipDestination ? destination.archive : null,
    };
  } catch (cause) {
    return { ok: false, because: `The hand-over broke off: ${whyNot(cause)}. Nothing of it is left half.` };
  }
}

async function* once(text: string): AsyncGenerator<Uint8Array> {
  yield new TextEncoder().encode(text);
}
