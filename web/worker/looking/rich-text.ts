/** Groups whose text is not of the document (RTF 1.9.1, destinations). */
const SKIPPED = new Set([
  "fonttbl",
  "colortbl",
  "stylesheet",
  "info",
  "pict",
  "object",
  "header",
  "footer",
  "generator",
  "listtable",
  "themedata",
  "datastore",
]);
const BREAKS: Readonly<Record<string, string>> = {
  par: "\n",
  line: "\n",
  row: "\n",
  tab: "\t",
  cell: "\t",
  emdash: "—",
  endash: "–",
  bullet: "•",
  lquote: "‘",
  rquote: "’",
  ldblquote: "“",
  rdblquote: "”",
};
const PIECE = /\\([a-z]{1,32})(-?\d{1,10})? ?|\\'([\da-f]{2})|\\([^a-z])|([{}])|([^\\{}\r\n]+)/gi;

/** The text of a document in Rich Text Format 1.9.1: groups and control words are stepped through, one letter a byte is windows-1252. */
export function textOfRichText(source: string): string {
  const parts: string[] = [];
  const letters = new TextDecoder("windows-1252");
  let depth = 0;
  let skippedFrom = Number.POSITIVE_INFINITY;
  /** Letters that stand for one of Unicode, for readers that know none: they are not read. */
  let stead = 0;
  for (const [, word, number, byte, sign, bracket, text] of source.matchAll(PIECE)) {
    if (bracket === "{") depth++;
    else if (bracket === "}") {
      depth--;
      if (depth < skippedFrom) skippedFrom = Number.POSITIVE_INFINITY;
    } else if (depth >= skippedFrom) continue;
    else if (sign === "*" || (word && SKIPPED.has(word))) skippedFrom = depth;
    else if (word === "u") {
      parts.push(String.fromCharCode((Number(number) + 65_536) % 65_536));
      stead = 1;
    } else if (word) parts.push(BREAKS[word] ?? "");
    else if (byte !== undefined) {
      if (stead === 0) parts.push(letters.decode(Uint8Array.of(Number.parseInt(byte, 16))));
      stead = 0;
    } else if (sign) parts.push(sign === "~" ? " " : /[\\{}]/.test(sign) ? sign : "");
    else if (text !== undefined) {
      parts.push(text.slice(stead));
      stead = 0;
    }
  }
  return parts.join("").trim();
}
