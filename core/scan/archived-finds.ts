import type { Entry } from "../archives/entry.ts";
import { entriesOf } from "../archives/open.ts";
import { Contents } from "../archives/stream.ts";
import { totalLength } from "../bytes/extents.ts";
import { type Crc32, crc32, type Sha256 } from "../bytes/hash.ts";
import { isTrap, TRAP } from "../bytes/inflate.ts";
import { type PatientSource, unreadableIn } from "../bytes/patient-source.ts";
import { piecesFrom } from "../bytes/pieces.ts";
import { type ByteSource, UnreadableError } from "../bytes/source.ts";
import type { Trouble } from "../bytes/trouble.ts";
import type { HeaderFacts } from "../filetypes/file-type.ts";
import type { Format } from "../filetypes/format.ts";
import { formatNamed, formatOf, headerFacts, promisedBy, typeOf } from "../filetypes/table.ts";
import { believable, type Find, type Patch } from "../finds/find.ts";
import type { Claims } from "./claims.ts";
import type { PassBatch, ScanOptions } from "./events.ts";
import { asItself, cut, type Graded, gradeContent, toldBy } from "./grade.ts";
import { isUnpacked } from "./scope.ts";

/** Finds handed on at once. */
const BATCH = 64;
/** What all entries of an archive may take of it, as often as it is long: entries that share their bytes are made to cost time. */
const MOST_SHARED = 4;

/**
 * The archives pass: every archive and backup that was found, present, binned or erased, is opened, and each file in it is a find of its own: unpacked, held
 * against the check sum that the archive keeps, and looked at as anything else. A quick scan takes what the archive tells of it. `from`: archives that are
 * done, and finds told of the next one. `hasTold`: finds that a narrower scan told.
 */
export async function* openArchives(
  archives: readonly Find[],
  source: PatientSource,
  claims: Claims,
  options: ScanOptions,
  from: { readonly at: number; readonly told: number },
  hasTold: (id: string) => boolean,
): AsyncGenerator<PassBatch> {
  const total = archives.reduce((sum, { size }) => sum + size, 0);
  const judge = new Judge(source, options, await crc32());
  let done = 0;
  for (const [at, archive] of archives.entries()) {
    if (at >= from.at)
      for await (const { told, ...some } of openOne(archive, judge, claims, at === from.at ? from.told : 0, hasTold))
        yield { ...some, done: Math.min(total, done + judge.within(archive)), total, at, told };
    done += archive.size;
    yield { finds: [], patches: [], troubles: [], done, total, at: at + 1, told: 0 };
  }
}

type Opened = Pick<PassBatch, "finds" | "patches" | "troubles"> & { readonly told: number };

/** Opens one archive. `before`: entries of it that were told of already. */
async function* openOne(
  holder: Find,
  judge: Judge,
  claims: Claims,
  before: number,
  hasTold: (id: string) => boolean,
): AsyncGenerator<Opened> {
  let finds: Find[] = [];
  let patches: Patch[] = [];
  let troubles: Trouble[] = [];
  let told = 0;
  const batch = (): Opened => {
    const all = { finds, patches, troubles, told };
    [finds, patches, troubles] = [[], [], []];
    return all;
  };
  const trouble = (what: string) =>
    void troubles.push({ what: `${pathOf(holder)}: ${what}`, at: holder.extents[0]?.offset ?? 0, length: holder.size });
  for await (const entry of judge.entries(holder, trouble)) {
    if (told++ < before || hasTold(idIn(holder, entry)) || !judge.isAskedFor(entry, holder)) continue;
    const known = twinOf(entry, holder, claims);
    const find = known === null ? await judge.findOf(entry, holder) : null;
    if (known !== null) patches.push(insidePatch(known, holder, entry));
    if (find) finds.push(find);
    if (finds.length + patches.length >= BATCH) yield batch();
  }
  yield batch();
}

const idIn = (holder: Find, { at }: Entry): string => `${holder.id}.${at.toString(16)}`;

/** What an archive is called: by its path, else by where it was found. */
const pathOf = ({ path, name, extents, format }: Find): string =>
  path ?? `/${name ?? `found at ${extents[0]?.offset ?? 0}.${formatNamed(format).endings[0] ?? format}`}`;

/** The find that was made of the same bytes by their content already. */
function twinOf({ packed, extents, size }: Entry, holder: Find, claims: Claims): string | null {
  if (packed || holder.state !== "erased" || extents.length === 0) return null;
  return claims.contentAt(cut(holder.extents, extents[0].offset, 1)[0]?.offset ?? -1, size) ?? null;
}

const placeIn = (holder: Find, at: number): number => cut(holder.extents, Math.min(at, holder.size - 1), 1)[0]?.offset ?? 0;

const insidePatch = (id: string, holder: Find, { path, at, modified }: Entry): Patch => ({
  id,
  inside: holder.id,
  entry: { name: nameOf(path), path: `${pathOf(holder)}${path}`, modified: believable(modified) },
  evidence: [{ pass: "archives", what: `${pathOf(holder)} holds it as ${path}`, at: placeIn(holder, at) }],
});

const nameOf = (path: string): string => path.slice(path.lastIndexOf("/") + 1);

/** What the bytes of an entry tell. */
interface Verdict extends Pick<Find, "condition" | "because" | "checked" | "sha256"> {
  readonly format: Format;
  readonly graded: Graded | null;
  /** What its header says where it was not walked. */
  readonly header: HeaderFacts | null;
  /** Bytes that are there of it. */
  readonly size: number;
}

class Judge {
  readonly #source: PatientSource;
  readonly #contents: Contents;
  readonly #options: ScanOptions;
  readonly #crc: Crc32;
  /** Bytes of the archive under way that its entries took. */
  #taken = 0;

  constructor(source: PatientSource, options: ScanOptions, crc: Crc32) {
    this.#source = source;
    this.#contents = new Contents(source);
    this.#options = options;
    this.#crc = crc;
  }

  /** Bytes of an archive that its entries so far account for. */
  within = ({ size }: Find): number => Math.min(size, this.#taken);

  async *entries(holder: Find, trouble: (what: string) => void): AsyncGenerator<Entry> {
    const { opens } = formatNamed(holder.format);
    this.#taken = 0;
    if (opens === null) return;
    try {
      for await (const entry of entriesOf(opens, this.#contents.of(holder, holder.name ?? ""), trouble)) {
        this.#taken += entry.packed && entry.packed.with !== "deflate" ? entry.size : totalLength(entry.extents);
        // A stream unpacks to more than it is long: there each entry lies behind the one before.
        if (!entry.vouched && entry.packed?.with === "deflate" && this.#taken > holder.size * MOST_SHARED) {
          trouble("its entries share their bytes: it is made to cost time, and was left");
          return;
        }
        yield entry;
      }
    } catch (cause) {
      if (!(cause instanceof UnreadableError) || cause.forGood) throw cause;
      trouble(`it cannot be opened further: ${cause.because}`);
    }
  }

  isAskedFor = ({ path }: Entry, { state }: Find): boolean => isUnpacked(this.#options, { kind: promisedBy(nameOf(path)).kind, state });

  /** Null: nothing of it is there. */
  async findOf(entry: Entry, holder: Find): Promise<Find | null> {
    const { at, path, modified, packed } = entry;
    const extents = entry.extents.flatMap(({ offset, length }) =>
      offset < 0 ? [{ offset, length }] : cut(holder.extents, offset, length),
    );
    const verdict = await this.#judge(entry, extents, holder);
    if (verdict.size === 0 && entry.size > 0 && holder.state === "erased" && entry.sealed === null) return null;
    const { format, graded, header, size, ...told } = verdict;
    return {
      id: idIn(holder, entry),
      kind: format.kind,
      format: format.name,
      state: holder.state,
      ...told,
      name: nameOf(path),
      path: `${pathOf(holder)}${path}`,
      size,
      modified: believable(modified),
      ...toldBy(graded, header),
      lastDay: null,
      extents,
      ...(packed && extents.length > 0 && { packed: { ...packed } }),
      volume: holder.volume,
      inside: holder.id,
      evidence: [
        { pass: "archives", what: `${pathOf(holder)} holds it as ${path}`, at: placeIn(holder, at) },
        { pass: "archives", what: verdict.because, at: extents.find(({ offset }) => offset >= 0)?.offset ?? placeIn(holder, at) },
      ],
    };
  }

  async #judge(entry: Entry, extents: Find["extents"], holder: Find): Promise<Verdict> {
    const { path, packed, size, crc, vouched, sealed } = entry;
    const promised = promisedBy(nameOf(path));
    const listed = { format: promised, graded: null, header: null, size, sha256: null, checked: false } as const;
    const isMadeUp = packed?.with === "deflate" && isTrap(totalLength(extents), size);
    if (sealed !== null || isMadeUp) return { ...listed, condition: "remnant", because: sealed ?? `it ${TRAP}` };
    const { depth, sha256 } = this.#options;
    if (depth === "quick")
      return holder.state === "erased"
        ? { ...listed, condition: "damaged", because: "its erased archive tells of it; it was not unpacked" }
        : { ...listed, condition: "whole", because: "its archive tells of it; a quick scan does not unpack it" };
    const told = await this.#readThrough(extents, packed ?? null, size, nameOf(path), sha256);
    const { content } = told;
    const type = content.size > 0 ? await typeOf(content) : null;
    const isAtHand = Contents.isAtHand({ extents, packed, size });
    const graded = type?.reach === "checked" && isAtHand ? await gradeContent(type, content, true) : null;
    const header = type && isAtHand ? await headerFacts(type, content) : null;
    const format = type ? await formatOf(type, content, promised) : promised;
    const read = { format, graded, header, size: content.size, sha256: told.sha256 };
    const lost = unreadableIn(this.#source, extents);
    if (size === 0) return { ...read, checked: false, condition: "whole", because: "it is empty" };
    if (content.size < size)
      return {
        ...read,
        checked: false,
        condition: "damaged",
        because: `it breaks off after ${content.size} of its ${size} bytes`,
      };
    if (crc !== null && told.crc !== crc)
      return { ...read, checked: true, condition: "damaged", because: "its check sum in the archive does not come out" };
    if (graded) return { ...read, checked: true, ...asItself(graded, path) };
    if ((crc !== null || vouched) && lost === 0)
      return { ...read, checked: true, condition: "whole", because: "the check sum that its archive keeps comes out" };
    return holder.state === "erased"
      ? { ...read, checked: false, condition: "damaged", because: "nothing in its erased archive can vouch for it" }
      : { ...read, checked: false, condition: "whole", because: "it is still there: its archive leads to all of it" };
  }

  /** Reads a content from end to end, as far as it goes. */
  async #readThrough(
    extents: Find["extents"],
    packed: Entry["packed"],
    size: number,
    name: string,
    sha256: Sha256 | undefined,
  ): Promise<{ content: ByteSource; crc: number; sha256: string | null }> {
    const content = this.#contents.of({ extents, packed, size }, name);
    this.#crc.start();
    sha256?.start();
    try {
      for await (const piece of piecesFrom(content)) {
        this.#crc.update(piece);
        sha256?.update(piece);
      }
    } catch (cause) {
      if (!(cause instanceof UnreadableError) || cause.forGood || cause.offset >= size) throw cause;
      return this.#readThrough(extents, packed, cause.offset, name, sha256);
    }
    return { content, crc: this.#crc.digest(), sha256: sha256 && content.size > 0 ? sha256.digest() : null };
  }
}
