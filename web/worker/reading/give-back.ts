import { portableSha256 } from "../../../core/bytes/hash.ts";
import { type Item, type OpenMedium, textBytes } from "../../../core/handover/item.ts";
import { planPeople } from "../../../core/handover/people/plan.ts";
import { planFiles } from "../../../core/handover/plan.ts";
import { whyNot } from "../../../core/handover/refusals.ts";
import { summaryPage } from "../../../core/handover/summary.ts";
import { type WrittenFile, writeFiles } from "../../../core/handover/write.ts";
import { wantWords } from "../../../core/triage/intake.ts";
import type { Job } from "../../kept/job.ts";
import type { Medium } from "../../kept/medium.ts";
import type { ChosenPeople } from "../finds/people-desk.ts";
import type { Found } from "../finds/protocol.ts";
import { FolderDestination } from "./folder-destination.ts";
import type { HandOverNews, HandOverResult, Target } from "./protocol.ts";
import type { ArrivedFile } from "./written.ts";
import { ZipDestination } from "./zip-destination.ts";

const SUMMARY = "summary.html";

/** What is given back: of which ticket, which finds, from which media. */
export interface Giving {
  readonly job: Job;
  readonly media: readonly Medium[];
  readonly finds: readonly Found[];
  /** Messages, contacts, calls and dates, and the conversations of the messages. */
  readonly people: ChosenPeople;
  /** A medium's storage as it is open now, or null. */
  /** Numbers of the ticket's wants that each chosen thing answers, by its key. */
  readonly answered: ReadonlyMap<string, readonly number[]>;
  readonly mediumOf: (medium: number) => OpenMedium | null;
}

/** A file that is given: of a find, or made of people's data. */
type GivenItem = Item<Found> & { readonly find?: Found };

/** Writes the chosen finds where the person said, checks them, and writes the summary. `learned`: takes the hash of each that was read; `arrived`: what stands there now. */
export async function giveBack(
  { job, media, finds, people, answered, mediumOf }: Giving,
  target: Target,
  notify: (news: HandOverNews) => void,
  learned: (find: Found, sha256: string) => void,
  arrived: (files: readonly ArrivedFile[], folder: string) => void,
): Promise<HandOverResult> {
  const at = Date.now();
  const made = planPeople(people.entries, new Map(people.talks), target.forms, at);
  const files: GivenItem[] = [...planFiles(finds, {}, target.folders), ...made];
  const nameOf = (id: number) => media.find((medium) => medium.id === id)?.name ?? "the medium it lies on";
  const opened = ({ medium }: Found) => mediumOf(medium) ?? `${nameOf(medium)} is not open`;
  try {
    const destination =
      target.kind === "folder" ? await FolderDestination.make(target.handle, target.folder) : await ZipDestination.make(target.folder);
    const checked: WrittenFile<GivenItem>[] = [];
    const notes: string[] = [];
    let written = 0;
    for await (const event of writeFiles(files, opened, destination, await portableSha256())) {
      if (event.type === "written") notify({ total: files.length, written: ++written, checked: null });
      else if (event.type === "no list") notes.push(`The list of hashes could not be written: ${event.because}.`);
      else {
        checked.push(event.file);
        const { item, ...rest } = event.file;
        if (item.find && rest.outcome === "equal" && rest.sha256 !== null) learned(item.find, rest.sha256);
        notify({ total: files.length, written, checked: rest });
      }
    }
    const used = new Set([...checked.flatMap(({ item }) => item.find?.medium ?? []), ...people.entries.map(({ medium }) => medium)]);
    const summary = summaryPage({
      ticket: job.number,
      customer: job.customer,
      device: job.device,
      media: media.filter(({ id }) => used.has(id)).map(({ name, source }) => ({ name, bytes: source?.size ?? 0 })),
      at,
      files: checked,
      wants: job.intake.wants.map((want, number) => ({ words: wantWords(want), given: givenOf(number, checked, people, answered) })),
    });
    if (destination instanceof FolderDestination)
      await destination
        .write(SUMMARY, once(summary))
        .catch((cause: unknown) => notes.push(`The summary could not be written beside them: ${whyNot(cause)}. It can be opened here.`));
    arrived(await arrivedFiles(checked, destination), destination.folder);
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

/** How many things that answer a want arrived: files that were written, and entries as far as none of the files that were made of them failed. */
function givenOf(
  want: number,
  checked: readonly WrittenFile<GivenItem>[],
  { entries }: ChosenPeople,
  answered: Giving["answered"],
): number {
  const arrived = checked.filter(({ outcome }) => outcome === "equal" || outcome === "holes");
  const isMade = checked.every(({ item, outcome }) => item.find !== undefined || outcome === "equal");
  const keys = [...arrived.flatMap(({ item }) => item.find?.key ?? []), ...(isMade ? entries.map(({ key }) => key) : [])];
  return keys.filter((key) => answered.get(key)?.includes(want)).length;
}

/** What stands there now of each file that was written. One that is gone already is left out. */
async function arrivedFiles(
  checked: readonly WrittenFile<GivenItem>[],
  destination: FolderDestination | ZipDestination,
): Promise<ArrivedFile[]> {
  const files: ArrivedFile[] = [];
  for (const { item, path, outcome } of checked) {
    const file = outcome === "failed" || !item.find ? null : await destination.fileOf(path).catch(() => null);
    if (file && item.find) files.push({ find: item.find, path, file });
  }
  return files;
}

async function* once(text: string): AsyncGenerator<Uint8Array> {
  yield textBytes(text);
}
