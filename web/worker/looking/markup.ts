/** Marks of characters that are written by a name (HTML §13.5, the usual ones; XML 1.0 §4.6). */
const NAMED: Readonly<Record<string, string>> = {
  amp: "&",
  lt: "<",
  gt: ">",
  quot: '"',
  apos: "'",
  nbsp: " ",
  shy: "",
  ndash: "–",
  mdash: "—",
  hellip: "…",
  lsquo: "‘",
  rsquo: "’",
  ldquo: "“",
  rdquo: "”",
  laquo: "«",
  raquo: "»",
  bull: "•",
  euro: "€",
  copy: "©",
};

/** References to characters, as the characters; what is none stays as it stands. */
export const withoutReferences = (text: string): string =>
  text.replace(/&(#x[\da-f]{1,6}|#\d{1,7}|\w{1,10});/gi, (whole, name: string) => {
    if (!name.startsWith("#")) return NAMED[name] ?? whole;
    const code = /^#x/i.test(name) ? Number.parseInt(name.slice(2), 16) : Number(name.slice(1));
    return code > 0 && code <= 0x10_ffff && (code < 0xd800 || code > 0xdfff) ? String.fromCodePoint(code) : "";
  });

/** What elements do to the text that stands in them. */
export interface Manner {
  /** Ends a line where it ends. */
  readonly lines: ReadonlySet<string>;
  /** Ends a line, or sets a column, where it stands. */
  readonly breaks: ReadonlySet<string>;
  readonly columns: ReadonlySet<string>;
  /** Nothing in it is read. */
  readonly skipped: ReadonlySet<string>;
  /** Text counts only in these; without it: everywhere. */
  readonly texts?: ReadonlySet<string>;
  /** Line ends and several spaces in the text are one space. */
  readonly flows: boolean;
}

/** One piece of markup at a time: a comment, a section that is taken as it stands, a tag, a text, or a bracket that is none of these. */
export const PIECE =
  /<!--[\s\S]*?(?:-->|$)|<!\[CDATA\[([\s\S]*?)(?:\]\]>|$)|<[?!][^>]*>?|<(\/?)([A-Za-z][\w:.-]*)((?:"[^"]*"|'[^']*'|[^"'<>])*)>|[^<]+|</g;

/** The text of markup (XML 1.0 §3, HTML §13.2), nothing of it run or asked for: tags are cut away, and no attribute is read. */
export function textOfMarkup(markup: string, manner: Manner): string {
  const parts: string[] = [];
  let skipped: string | null = null;
  let within = 0;
  for (const [piece, section, closing, tag, rest] of markup.matchAll(PIECE)) {
    if (tag === undefined) {
      const isText = section !== undefined || !piece.startsWith("<") || piece === "<";
      if (!isText || skipped !== null || (manner.texts && within === 0)) continue;
      const text = section ?? withoutReferences(piece);
      parts.push(manner.flows ? text.replace(/\s+/g, " ") : text);
      continue;
    }
    const name = tag.toLowerCase();
    const isEnd = closing === "/";
    const isEmpty = rest.endsWith("/");
    if (skipped !== null) {
      if (isEnd && name === skipped) skipped = null;
      continue;
    }
    if (!isEnd && !isEmpty && manner.skipped.has(name)) skipped = name;
    if (manner.texts?.has(name) && !isEmpty) within = Math.max(0, within + (isEnd ? -1 : 1));
    if (!isEnd && manner.breaks.has(name)) parts.push("\n");
    else if (!isEnd && manner.columns.has(name)) parts.push("\t");
    else if ((isEnd || isEmpty) && manner.lines.has(name)) parts.push("\n");
  }
  return parts
    .join("")
    .replace(/[ \t]+\n/g, "\n")
    .replace(/\n{3,}/g, "\n\n")
    .trim();
}

const of = (...names: string[]): ReadonlySet<string> => new Set(names);

/** HTML: blocks end lines (Rendering, §15.3). */
export const HTML: Manner = {
  lines: of(
    "p",
    "div",
    "li",
    "tr",
    "h1",
    "h2",
    "h3",
    "h4",
    "h5",
    "h6",
    "blockquote",
    "pre",
    "section",
    "article",
    "table",
    "ul",
    "ol",
    "dt",
    "dd",
    "title",
  ),
  breaks: of("br", "hr"),
  columns: of("td", "th"),
  skipped: of("script", "style", "template", "noscript", "svg", "math", "iframe", "object"),
  flows: true,
};

/** WordprocessingML and DrawingML (ECMA-376 Part 1 §17.3, §21.1.2). */
export const OFFICE: Manner = {
  lines: of("w:p", "a:p", "w:tr"),
  breaks: of("w:br", "w:cr", "a:br"),
  columns: of("w:tab", "w:tc", "a:tc"),
  skipped: of("w:instrtext", "w:deltext"),
  texts: of("w:t", "a:t"),
  flows: false,
};

/** OpenDocument 1.3 Part 3 §5, §6.1, §9. */
export const OPEN_DOCUMENT: Manner = {
  lines: of("text:p", "text:h", "table:table-row"),
  breaks: of("text:line-break"),
  columns: of("text:tab", "table:table-cell"),
  skipped: of("office:automatic-styles", "office:font-face-decls", "text:tracked-changes", "office:annotation"),
  flows: true,
};
