import { Class } from "./record.ts";

/** What a column takes ("Datatypes In SQLite" §3.1). */
export type Affinity = "integer" | "text" | "blob" | "real" | "numeric";

export interface Column {
  readonly name: string;
  readonly affinity: Affinity;
  readonly notNull: boolean;
  /** What is there where a record is too short to hold it: added later. Null: nothing, or an expression. */
  readonly preset: string | number | null;
  /** Computed when read, and not stored ("Generated Columns" §2). */
  readonly virtual: boolean;
}

/** A table as its CREATE statement tells of it. */
export interface Table {
  readonly name: string;
  readonly columns: readonly Column[];
  /** Columns in the order in which a record holds them, as indexes of `columns`. */
  readonly stored: readonly number[];
  /** Index of the column that is another name of the row id, or -1. */
  readonly rowidColumn: number;
  readonly withoutRowid: boolean;
  /** No schema tells of it: its name is made up of this number, and its columns are numbered too. */
  readonly nameless?: number;
}

/** Statements longer than this are not written by people or programs. */
const MAX_SQL = 1_000_000;

/** "Datatypes In SQLite" §3.1, in its order. */
function affinityOf(type: string): Affinity {
  const upper = type.toUpperCase();
  if (upper.includes("INT")) return "integer";
  if (/CHAR|CLOB|TEXT/.test(upper)) return "text";
  if (upper === "" || upper.includes("BLOB")) return "blob";
  return /REAL|FLOA|DOUB/.test(upper) ? "real" : "numeric";
}

const TOKEN = /\s+|--[^\n]*|\/\*[\s\S]*?(?:\*\/|$)|"(?:[^"]|"")*"|`(?:[^`]|``)*`|\[[^\]]*\]|'(?:[^']|'')*'|[\p{L}\p{N}_$.]+|[^\s]/gu;
const isNoise = (token: string) => /^(\s|--|\/\*)/.test(token);

/** A name without its quotes. */
function plain(token: string): string {
  const quote = token[0];
  if (quote === '"' || quote === "`" || quote === "'") return token.slice(1, -1).replaceAll(quote + quote, quote);
  return quote === "[" ? token.slice(1, -1) : token;
}

/** Words that end a column's type and begin its constraints. */
const CONSTRAINTS = new Set([
  "constraint",
  "primary",
  "not",
  "null",
  "unique",
  "check",
  "default",
  "collate",
  "references",
  "generated",
  "as",
]);
const TABLE_CONSTRAINTS = new Set(["constraint", "primary", "unique", "check", "foreign"]);

/** Splits tokens at commas that stand in no parentheses. */
function parts(tokens: readonly string[]): string[][] {
  const all: string[][] = [[]];
  let depth = 0;
  for (const token of tokens) {
    if (token === "(") depth++;
    if (token === ")") depth--;
    if (token === "," && depth === 0) all.push([]);
    else all.at(-1)?.push(token);
  }
  return all;
}

/** Index behind the parenthesis that is closed again. */
function behind(tokens: readonly string[], open: number): number {
  let depth = 0;
  for (let index = open; index < tokens.length; index++) {
    if (tokens[index] === "(") depth++;
    if (tokens[index] === ")" && --depth === 0) return index + 1;
  }
  return tokens.length;
}

function presetOf(tokens: readonly string[], affinity: Affinity): Column["preset"] {
  let [token, next] = tokens;
  if (token === "(") return presetOf(tokens.slice(1, behind(tokens, 0) - 1), affinity);
  const sign = token === "-" ? -1 : 1;
  if (token === "-" || token === "+") token = next;
  if (token === undefined || /^null$/i.test(token)) return null;
  if (/^(true|false)$/i.test(token)) return Number(/^true$/i.test(token));
  const isNumber = /^(0x[0-9a-f]+|\d+(\.\d*)?(e\d+)?)$/i.test(token);
  if (isNumber) return affinity === "text" ? `${sign < 0 ? "-" : ""}${token}` : sign * Number(token);
  if (!/^['"]/.test(token)) return null;
  const text = plain(token);
  const numeric = affinity !== "text" && affinity !== "blob" && text.trim() !== "" && Number.isFinite(Number(text));
  return numeric ? Number(text) : text;
}

interface Parsed {
  readonly column: Column;
  readonly isKey: boolean;
  readonly isRowid: boolean;
}

function columnOf([name, ...rest]: readonly string[]): Parsed {
  let at = 0;
  const type: string[] = [];
  while (at < rest.length && !CONSTRAINTS.has(rest[at].toLowerCase())) {
    const next = rest[at] === "(" ? behind(rest, at) : at + 1;
    if (rest[at] !== "(") type.push(plain(rest[at]));
    at = next;
  }
  const affinity = affinityOf(type.join(" "));
  const words = rest.map((token) => token.toLowerCase());
  let notNull = false;
  let isKey = false;
  let descending = false;
  let preset: Column["preset"] = null;
  let generated = false;
  let isStored = false;
  for (; at < rest.length; at = words[at] === "(" ? behind(rest, at) : at + 1) {
    if (words[at] === "not" && words[at + 1] === "null") notNull = true;
    else if (words[at] === "primary" && words[at + 1] === "key") {
      isKey = true;
      descending = words[at + 2] === "desc";
    } else if (words[at] === "default") preset = presetOf(rest.slice(at + 1), affinity);
    else if (words[at] === "as" && words[at + 1] === "(") generated = true;
    else if (words[at] === "stored") isStored = true;
  }
  return {
    column: { name: plain(name), affinity, notNull, preset, virtual: generated && !isStored },
    isKey,
    isRowid: isKey && !descending && type.join(" ").toUpperCase() === "INTEGER",
  };
}

/** Takes a CREATE TABLE statement apart. @returns null for what is none, or is cut off before its columns */
export function parseTable(sql: string): Table | null {
  if (sql.length > MAX_SQL) return null;
  const tokens = (sql.match(TOKEN) ?? []).filter((token) => !isNoise(token));
  const words = tokens.map((token) => token.toLowerCase());
  if (words[0] !== "create") return null;
  let at = words[1] === "temp" || words[1] === "temporary" ? 2 : 1;
  if (words[at] !== "table") return null;
  at++;
  if (words[at] === "if") at += 3;
  if (words[at + 1] === ".") at += 2;
  const name = tokens[at];
  if (name === undefined || tokens[at + 1] !== "(") return null;
  const close = behind(tokens, at + 1);
  const columns: Parsed[] = [];
  let key: string[] = [];
  let isSingleKey = false;
  for (const part of parts(tokens.slice(at + 2, close - 1))) {
    if (part.length === 0) continue;
    if (!TABLE_CONSTRAINTS.has(part[0].toLowerCase())) {
      columns.push(columnOf(part));
      continue;
    }
    const primary = part.findIndex((token, index) => /^primary$/i.test(token) && /^key$/i.test(part[index + 1] ?? ""));
    if (primary < 0) continue;
    const list = parts(part.slice(primary + 3, behind(part, primary + 2) - 1));
    key = list.map(([one]) => plain(one ?? "").toLowerCase());
    isSingleKey = key.length === 1;
  }
  if (columns.length === 0) return null;
  const withoutRowid = words.slice(close).join(" ").includes("without rowid");
  const indexOf = (column: string) => columns.findIndex((one) => one.column.name.toLowerCase() === column);
  if (key.length === 0) key = columns.filter(({ isKey }) => isKey).map(({ column }) => column.name.toLowerCase());
  const rowid = columns.findIndex(({ isRowid }) => isRowid);
  // A key named at the end of the statement may be the row id too.
  const named = isSingleKey ? indexOf(key[0]) : -1;
  const typed = named >= 0 && /^integer$/i.test(typeWords(tokens.slice(at + 2, close - 1), named));
  const rowidColumn = withoutRowid ? -1 : rowid >= 0 ? rowid : typed ? named : -1;
  const real = columns.map((_, index) => index).filter((index) => !columns[index].column.virtual);
  // Tables without row id hold their key first ("Database File Format" §2.4).
  const first = withoutRowid ? [...new Set(key.map(indexOf).filter((index) => index >= 0))] : [];
  return {
    name: plain(name),
    columns: columns.map(({ column, isKey }) => (withoutRowid && isKey ? { ...column, notNull: true } : column)),
    stored: [...first, ...real.filter((index) => !first.includes(index))],
    rowidColumn,
    withoutRowid,
  };
}

/** The declared type of the column of this number. */
function typeWords(tokens: readonly string[], column: number): string {
  const [, ...rest] = parts(tokens).filter((part) => part.length > 0)[column] ?? [];
  const end = rest.findIndex((token) => CONSTRAINTS.has(token.toLowerCase()));
  return rest.slice(0, end < 0 ? undefined : end).join(" ");
}

/** The columns that an index holds, of a CREATE INDEX statement. @returns null where it is none, or holds expressions */
export function parseIndex(sql: string, table: Table): number[] | null {
  if (sql.length > MAX_SQL) return null;
  const tokens = (sql.match(TOKEN) ?? []).filter((token) => !isNoise(token));
  const open = tokens.indexOf("(");
  if (open < 0 || !/^create$/i.test(tokens[0]) || !tokens.slice(0, 3).some((token) => /^index$/i.test(token))) return null;
  const named = parts(tokens.slice(open + 1, behind(tokens, open) - 1)).map(([token]) => plain(token ?? "").toLowerCase());
  const columns = named.map((name) => table.columns.findIndex((column) => column.name.toLowerCase() === name));
  return columns.length === 0 || columns.includes(-1) ? null : columns;
}

/**
 * An index as a table of its entries: the columns that it holds, then the row id of the row ("Database File Format" §2.5).
 * What it held outlives the row, in pages of its own.
 */
export const indexAsTable = (name: string, table: Table, columns: readonly number[]): Table => ({
  name,
  columns: [
    ...columns.map((column) => ({ ...table.columns[column], notNull: false })),
    { name: "rowid", affinity: "integer", notNull: true, preset: null, virtual: false },
  ],
  stored: [...columns, -1].map((_, place) => place),
  rowidColumn: -1,
  withoutRowid: true,
});

/** Which classes of values a column may hold by its affinity ("Datatypes In SQLite" §3). */
export function classesOf({ affinity, notNull }: Column): number {
  const some = {
    integer: Class.integer | Class.real | Class.text | Class.blob,
    text: Class.text | Class.blob,
    blob: Class.integer | Class.real | Class.text | Class.blob,
    // Whole numbers of a REAL column are stored as integers.
    real: Class.integer | Class.real | Class.text | Class.blob,
    numeric: Class.integer | Class.real | Class.text | Class.blob,
  }[affinity];
  return notNull ? some : some | Class.null;
}

/** Which classes such a column is expected to hold. */
export function expectedOf({ affinity, notNull }: Column): number {
  const some = {
    integer: Class.integer,
    text: Class.text,
    blob: Class.integer | Class.real | Class.text | Class.blob,
    real: Class.integer | Class.real,
    numeric: Class.integer | Class.real | Class.text,
  }[affinity];
  return notNull ? some : some | Class.null;
}
