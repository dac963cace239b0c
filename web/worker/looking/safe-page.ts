import { HTML, PIECE, withoutReferences } from "./markup.ts";

/** Elements that only lay text out (HTML §4.3–4.5, §4.9). All others are cut away, and what they hold stays as text. */
const ALLOWED = new Set(
  (
    "p div span section article header footer main aside nav address h1 h2 h3 h4 h5 h6 ul ol li dl dt dd blockquote pre code figure figcaption " +
    "table caption thead tbody tfoot tr td th b strong i em u s small sub sup mark q cite center br hr"
  ).split(" "),
);
const VOID = new Set(["br", "hr"]);
/** Elements whose text is not shown by a page either. */
const UNSHOWN = new Set([...HTML.skipped, "title", "select", "textarea", "datalist"]);
const escaped = (text: string): string => text.replaceAll("&", "&amp;").replaceAll("<", "&lt;").replaceAll(">", "&gt;");

/**
 * A page as what only lays its text out: an allow-list of elements, none of them with an attribute, so that nothing of it runs, leads anywhere or asks
 * for anything. Text is text, whatever it looks like.
 */
export function safePage(markup: string): string {
  const parts: string[] = [];
  let unshown: string | null = null;
  for (const [piece, section, closing, tag] of markup.matchAll(PIECE)) {
    if (tag === undefined) {
      const isText = section !== undefined || !piece.startsWith("<") || piece === "<";
      if (isText && unshown === null) parts.push(escaped(withoutReferences(section ?? piece)));
      continue;
    }
    const name = tag.toLowerCase();
    const isEnd = closing === "/";
    if (unshown !== null) {
      if (isEnd && name === unshown) unshown = null;
    } else if (UNSHOWN.has(name)) {
      if (!isEnd) unshown = name;
    } else if (ALLOWED.has(name) && !(isEnd && VOID.has(name))) parts.push(isEnd ? `</${name}>` : `<${name}>`);
  }
  return parts.join("");
}
