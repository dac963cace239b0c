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

/** Bytes of a value that are kept beside what was understood: pictures are long. */
const MAX_KEPT = 4096;

/** Groups content lines between BEGIN and END of a component. Nested ones are skipped; one without an end counts as far as it goes. */
export function* components(bytes: Uint8Array, name: string): Generator<{ lines: ContentLine[]; at: number; whole: boolean }> {
  let lines: ContentLine[] | null = null;
  let at = 0;
  let within = 0;
  for (const line of contentLines(bytes)) {
    const named = line.value.trim().toUpperCase();
    if (line.name === "BEGIN" && named === name) {
      if (lines) yield { lines, at, whole: false };
      lines = [];
      at = line.at;
      within = 0;
    } else if (line.name === "END" && named === name && lines) {
      yield { lines, at, whole: true };
      lines = null;
    } else if (lines && line.name === "BEGIN") within++;
    else if (lines && line.name === "END") within = Math.max(0, within - 1);
    else if (lines && within === 0) lines.push(line);
  }
  if (lines) yield { lines, at, whole: false };
}

export const columnsOf = (lines: readonly ContentLine[]): Record<string, string> => {
  const columns: Record<string, string> = {};
  for (const { name, value } of lines) {
    let key = name;
    for (let number = 2; key in columns; number++) key = `${name} ${number}`;
    columns[key] = value.length > MAX_KEPT ? `${value.slice(0, MAX_KEPT)}…` : value;
  }
  return columns;
};
