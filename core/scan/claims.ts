import { type Extent, onMedium, totalLength } from "../bytes/extents.ts";
import { RangeSet } from "../bytes/ranges.ts";
import type { ListedFile } from "../filesystems/volume.ts";
import type { Find } from "../finds/find.ts";
import { PresentFiles } from "./present-files.ts";

/** A find's id by its list entry. */
export const idOf = ({ at }: Pick<ListedFile, "at">): string => `e${at.toString(16)}`;
/** Entries of one key speak of one thing: by what their file system says, else by place and size. */
export const keyOf = (file: ListedFile): string => file.key ?? (file.firstByte === null ? idOf(file) : `${file.firstByte}+${file.size}`);

/** Finds that claim bytes for a file: by an entry (e) or by their beginning (b). Stretches (s) and pages (p) only tell what lies there. */
const CLAIMS = /^[eb]/;

/** What later passes must know of the erased finds so far; small enough to be kept for hundreds of thousands. */
export class Claims {
  /** Bytes of erased items whose structure was walked to its end: nobody else's. */
  readonly proven = new RangeSet();
  /** Bytes in which erased finds lie that nothing checks, and of these the ones that a list speaks of. */
  readonly #unprovenBytes = new RangeSet();
  readonly #recordedBytes = new RangeSet();
  /** First bytes of all erased finds, checked or not, with their ids. */
  readonly #beginning = new Map<number, { readonly id: string; readonly size: number; readonly checked: boolean }>();
  /** Checked erased finds by the place of their first byte. */
  readonly #startingAt = new Map<number, string>();
  /** Erased finds whose format nothing checks: where they lie, if their bytes are really theirs. */
  readonly unproven: { id: string; extents: readonly Extent[] }[] = [];
  /** Ids of present files by the place of their first byte, with their size. */
  readonly #presentAt = new Map<number, { id: string; size: number }>();
  /** Ids of erased files by place and size, as their entries tell. */
  readonly #entries = new Map<string, string>();

  notePresent(file: ListedFile): void {
    if (file.firstByte !== null) this.#presentAt.set(file.firstByte, { id: idOf(file), size: file.size });
    this.present.note(file);
  }

  /** Ids of present files by their size: an erased find with the bytes of one of them is no find. */
  readonly present = new PresentFiles();

  noteErased(file: ListedFile, id: string): void {
    this.#entries.set(keyOf(file), id);
  }

  /**
   * Entries that speak of a find with another id: the entry's place, and that id. It only grows: one that was added since a checkpoint was told
   * is not asked for by who goes on from there.
   */
  readonly twins: (readonly [number, string])[] = [];
  noteTwin(file: ListedFile, id: string): void {
    this.twins.push([file.at, id]);
    this.noteErased(file, id);
  }

  /** A find of before a break: it claims what it claimed then. */
  recall(find: Find): void {
    if (CLAIMS.test(find.id)) this.add(find);
  }

  /** The find that an erased entry speaks of, where it is known already: `moved` when that file is still present. */
  spokenOf(file: ListedFile): { id: string; moved: boolean } | null {
    // File systems that number their files know themselves which of them was only moved.
    const now = file.firstByte === null || file.key !== undefined ? undefined : this.#presentAt.get(file.firstByte);
    if (now && now.size === file.size) return { id: now.id, moved: true };
    const id = this.#entries.get(keyOf(file));
    return id === undefined ? null : { id, moved: false };
  }

  /** The erased find, of a format that nothing checks, in whose place this byte lies. Null: none is known. */
  holderOf(offset: number): string | null {
    if (this.#unprovenBytes.overlap(offset, 1) === 0) return null;
    return this.unproven.find(({ extents }) => extents.some((one) => one.offset <= offset && offset < one.offset + one.length))?.id ?? null;
  }

  /** Does a list speak of an erased file in whose place this byte lies? */
  isRecorded(offset: number): boolean {
    return this.#recordedBytes.overlap(offset, 1) > 0;
  }

  /** The erased find, checked or not, that begins at this byte. */
  beginningAt(offset: number): string | undefined {
    return this.#beginning.get(offset)?.id;
  }

  /** The find of its content alone, checked or not, that begins at this byte and is so long: an entry that says the same speaks of it. */
  contentAt(offset: number, size: number): string | undefined {
    const begun = this.#beginning.get(offset);
    return begun?.size === size && begun.id.startsWith("b") ? begun.id : undefined;
  }

  /** Where erased finds begin, with their bytes: those that claim nothing yet too. */
  begun(): { at: number; size: number }[] {
    return [
      ...Array.from(this.#beginning, ([at, { size }]) => ({ at, size })),
      ...Array.from(this.#floating, ([at, { size }]) => ({ at, size })),
    ];
  }

  /** Where finds begin that nothing but their content tells of and nothing checks. */
  begunUnrecorded(): number[] {
    return Array.from(this.#beginning).flatMap(([at, { id, checked }]) => (id.startsWith("b") && !checked ? [at] : []));
  }

  /** Finds that may be parts of others: they claim nothing until it is known that they are not. */
  readonly #floating = new Map<number, Find>();
  float(find: Find): void {
    const [first] = onMedium(find.extents);
    if (first) this.#floating.set(first.offset, find);
  }

  /** A find that floated stands for itself: it claims its bytes. */
  land(offset: number): void {
    const find = this.#floating.get(offset);
    if (find) this.add(find);
    this.#floating.delete(offset);
  }

  /** The checked erased find that begins at this byte. */
  startingAt(offset: number): string | undefined {
    return this.#startingAt.get(offset);
  }

  add(find: Find): void {
    const extents = onMedium(find.extents);
    if (find.state !== "erased" || extents.length === 0 || find.inside) return;
    this.#beginning.set(extents[0].offset, { id: find.id, size: find.size, checked: find.checked });
    if (!find.checked) {
      this.unproven.push({ id: find.id, extents });
      for (const { offset, length } of extents) {
        this.#unprovenBytes.add(offset, length);
        if (find.evidence[0]?.pass === "listing") this.#recordedBytes.add(offset, length);
      }
    } else if (find.condition !== "remnant") {
      this.#startingAt.set(extents[0].offset, find.id);
      if (find.condition !== "damaged") for (const { offset, length } of extents) this.proven.add(offset, length);
    }
  }

  /** How many bytes of these extents are proven to be another's, and whether the first byte is among them. */
  takenOf(extents: readonly Extent[]): { bytes: number; of: number; head: boolean } {
    const bytes = extents.reduce((sum, { offset, length }) => sum + this.proven.overlap(offset, length), 0);
    return { bytes, of: totalLength(extents), head: this.proven.overlap(extents[0].offset, 1) > 0 };
  }
}
