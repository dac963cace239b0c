import { type ContentLine, contentLines } from "./lines.ts";

/** An entry of a file, and where it begins in it. */
export interface Entry<V> {
  readonly values: V;
  readonly columns: Readonly<Record<string, string>>;
  /** Byte offset. */
  readonly at: number;
  /** It has an end. */
  readonly whole: boolean;
}

/** Hears what an export lacks, in plain words. */
export type Lacking = (what: string) => void;

/** Letters of a value that are kept beside what was understood: pictures are long, and lie in the file itself. */
export const MAX_KEPT = 64 * 1024;

export interface Component {
  /** Which of the names that were asked for. */
  readonly name: string;
  readonly lines: ContentLine[];
  readonly at: number;
  readonly whole: boolean;
}

/** Groups content lines between BEGIN and END of components. Nested ones are skipped; one without an end counts as far as it goes. */
export function* components(bytes: Uint8Array, names: readonly string[]): Generator<Component> {
  let open: Component | null = null;
  let within = 0;
  for (const line of contentLines(bytes)) {
    const named = line.value.trim().toUpperCase();
    if (line.name === "BEGIN" && names.includes(named)) {
      if (open) yield { ...open, whole: false };
      open = { name: named, lines: [], at: line.at, whole: true };
      within = 0;
    } else if (line.name === "END" && open && named === open.name) {
      yield open;
      open = null;
    } else if (open && line.name === "BEGIN") within++;
    else if (open && line.name === "END") within = Math.max(0, within - 1);
    else if (open && within === 0) open.lines.push(line);
  }
  if (open) yield { ...open, whole: false };
}

/** All lines of a component by their names. `lacking` hears of values that were cut. */
export const columnsOf = (lines: readonly ContentLine[], lacking: Lacking): Record<string, string> => {
  const columns: Record<string, string> = {};
  for (const { name, value } of lines) {
    let key = name;
    for (let number = 2; key in columns; number++) key = `${name} ${number}`;
    columns[key] = value.length > MAX_KEPT ? `${value.slice(0, MAX_KEPT)}…` : value;
    if (value.length > MAX_KEPT)
      lacking(`a value ${name} of more than ${MAX_KEPT} letters is shown by its first ones; the file itself has all of it`);
  }
  return columns;
};
