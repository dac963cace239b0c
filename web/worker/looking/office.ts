import { unzipSync } from "fflate";
import { HTML, OFFICE, OPEN_DOCUMENT, textOfMarkup, withoutReferences } from "./markup.ts";

/** Bytes of a part, and of all parts of a document, that are unpacked at most. */
const MOST_OF_ONE = 24 * 1024 * 1024;
const MOST_OF_ALL = 64 * 1024 * 1024;
/** Sheets, slides and chapters that are read. */
const MOST_PARTS = 200;
/** Rows of a sheet. */
const MOST_ROWS = 5000;

/** The parts of a document whose names fit, unpacked, in the order of the numbers in their names. */
function partsOf(document: Uint8Array, wanted: RegExp): string[] {
  let all = 0;
  const parts = unzipSync(document, {
    filter: ({ name, originalSize }) => {
      if (!wanted.test(name) || originalSize > MOST_OF_ONE || all + originalSize > MOST_OF_ALL) return false;
      all += originalSize;
      return true;
    },
  });
  const number = (name: string) => Number(/(\d+)\.\w+$/.exec(name)?.[1] ?? 0);
  return Object.keys(parts)
    .sort((a, b) => number(a) - number(b))
    .slice(0, MOST_PARTS)
    .map((name) => new TextDecoder().decode(parts[name]));
}

/** SpreadsheetML (ECMA-376 Part 1 §18.3, §18.4): the cells of each row, shared texts by their number. */
function sheets(document: Uint8Array): string {
  const [shared = ""] = partsOf(document, /^xl\/sharedStrings\.xml$/);
  const texts = [...shared.matchAll(/<si>([\s\S]*?)<\/si>/g)].map(([, item]) => runs(item));
  const rows = partsOf(document, /^xl\/worksheets\/sheet\d+\.xml$/).map((sheet) =>
    [...sheet.matchAll(/<row\b[^>]*>([\s\S]*?)<\/row>/g)]
      .slice(0, MOST_ROWS)
      .map(([, row]) =>
        [...row.matchAll(/<c\b([^>]*?)(?:\/>|>([\s\S]*?)<\/c>)/g)]
          .map(([, attributes, cell = ""]) => {
            const [, value = ""] = /<v>([\s\S]*?)<\/v>/.exec(cell) ?? [];
            if (/\bt="s"/.test(attributes)) return texts[Number(value)] ?? "";
            return /\bt="inlineStr"/.test(attributes) ? runs(cell) : withoutReferences(value);
          })
          .join("\t"),
      )
      .join("\n"),
  );
  return rows.join("\n\n");
}
const runs = (item: string): string => withoutReferences([...item.matchAll(/<t\b[^>]*>([\s\S]*?)<\/t>/g)].map(([, text]) => text).join(""));

const flowing = (document: Uint8Array, parts: RegExp, manner: typeof HTML) =>
  partsOf(document, parts)
    .map((part) => textOfMarkup(part, manner))
    .join("\n\n");

/** Documents that are archives of markup, by the name of their format: their text. */
export const OFFICE_TEXTS: Readonly<Record<string, (document: Uint8Array) => string>> = {
  docx: (document) => flowing(document, /^word\/(document|footnotes|endnotes)\.xml$/, OFFICE),
  pptx: (document) => flowing(document, /^ppt\/slides\/slide\d+\.xml$/, OFFICE),
  xlsx: sheets,
  odt: (document) => flowing(document, /^content\.xml$/, OPEN_DOCUMENT),
  ods: (document) => flowing(document, /^content\.xml$/, OPEN_DOCUMENT),
  odp: (document) => flowing(document, /^content\.xml$/, OPEN_DOCUMENT),
  epub: (document) => flowing(document, /\.x?html?$/i, HTML),
};
