/**
 * What is not told apart when people look for words: accents (U+0300–036F), the vowel signs of Arabic (064B–065F, 0670, and the stretching 0640) and the
 * points of Hebrew (0591–05BD, 05BF, 05C1–05C2, 05C4–05C5, 05C7). No other marks: without theirs the words of Hindi are other words (Unicode, chapters 7 and 9).
 */
const LEFT_OUT = /[\u0300-\u036f\u064b-\u065f\u0670\u0640\u0591-\u05bd\u05bf\u05c1\u05c2\u05c4\u05c5\u05c7]/gu;
const PLAIN = /^[\u0020-\u007e\n\r\t]*$/;

/** A text as it is looked for in: compatibility forms apart (NFKD, Unicode Standard Annex 15), small letters, without what is not told apart. */
export const folded = (text: string): string =>
  PLAIN.test(text) ? text.toLowerCase() : text.normalize("NFKD").replace(LEFT_OUT, "").toLowerCase();

/** Words that are looked for, each by itself. */
export const wordsOf = (query: string): string[] => folded(query).split(/\s+/).filter(Boolean);

/** Stretches of a text that words hit, as offsets in it, in order and without overlap; none where one of the words is not in it. */
export function hitsIn(text: string, words: readonly string[]): [number, number][] {
  if (words.length === 0) return [];
  const { plain, at } = mapped(text);
  if (words.some((word) => !plain.includes(word))) return [];
  const hits: [number, number][] = [];
  for (const word of words)
    for (let from = plain.indexOf(word); from >= 0 && hits.length < MOST_HITS; from = plain.indexOf(word, from + word.length))
      hits.push([at[from], at[from + word.length]]);
  hits.sort((a, b) => a[0] - b[0] || b[1] - a[1]);
  return hits.filter(([from], index) => index === 0 || from >= Math.max(...hits.slice(0, index).map(([, to]) => to)));
}

/** More marks than this in one text help nobody. */
const MOST_HITS = 200;

/** A folded text, and for each of its places where in the text it comes from. */
function mapped(text: string): { plain: string; at: number[] } {
  let plain = "";
  const at: number[] = [];
  let place = 0;
  for (const sign of text) {
    for (const unit of folded(sign)) {
      for (let index = 0; index < unit.length; index++) at.push(place);
      plain += unit;
    }
    place += sign.length;
  }
  at.push(place);
  return { plain, at };
}
