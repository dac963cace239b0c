import fc from "fast-check";
import { expect, test } from "vitest";
import { TextBlocks } from "./text-blocks.ts";
import { oneByOne, WordMatches } from "./word-matches.ts";

const texts = fc.oneof(
  fc.constantFrom("", "fox", "the fox", "foxfox", "fo", "x", "ox\nfo", "+4477009\n4477009", "灯笼", "别忘了带灯笼", "é"),
  fc.string({ maxLength: 90 }),
  fc.string({ unit: "grapheme", maxLength: 90 }),
);

test("texts come back as they were, and each is found by the words that it holds, in whatever order they came and were asked for", () => {
  fc.assert(
    fc.property(
      fc.array(texts, { maxLength: 200, size: "max" }),
      fc.array(fc.constantFrom("fox", "x", "o", "灯笼", "é", "4477", "a")),
      (all, words) => {
        const blocks = new TextBlocks();
        const matches = new WordMatches((word) => (text, known) => blocks.learn(word, text, known));
        const numbers: number[] = [];
        for (const [at, text] of all.entries()) {
          numbers.push(blocks.put(text));
          // Asked in between as well: what comes later stands in the same block.
          if (at % 7 !== 3 || words.length === 0) continue;
          const holds = matches.holding([words[at % words.length]], blocks.length);
          expect(holds(numbers[at])).toBe(text.includes(words[at % words.length]));
        }
        expect(numbers.map((number) => blocks.at(number))).toEqual(all);
        for (const word of words) {
          const holds = matches.holding([word], blocks.length);
          expect(numbers.map(holds)).toEqual(all.map((text) => text.includes(word)));
        }
      },
    ),
    { numRuns: 60 },
  );
});

test("who was called again and again is kept once; what is long is kept as it came", () => {
  const blocks = new TextBlocks();
  const [one, other] = [blocks.put("+4477009"), blocks.put("+4477008")];
  for (let call = 0; call < 1000; call++) expect(blocks.put(call % 2 === 0 ? "+4477009" : "+4477008")).toBe(call % 2 === 0 ? one : other);
  expect(blocks.length).toBe(32);
  const long = "long ".repeat(40);
  expect(blocks.put(long)).not.toBe(blocks.put(long));
});

test("a word's rows are asked once, and again those that say something else now", () => {
  const asked: number[] = [];
  const said = ["fox", "hare", "fox"];
  const matches = new WordMatches((word) =>
    oneByOne((row) => {
      asked.push(row);
      return said[row].includes(word);
    }),
  );
  const who = (word: string) => said.map((_, row) => row).filter(matches.holding([word], said.length));
  expect(who("fox")).toEqual([0, 2]);
  expect(who("fox")).toEqual([0, 2]);
  expect(asked).toEqual([0, 1, 2]);
  said[1] = "foxes";
  matches.touch(1);
  expect(who("fox")).toEqual([0, 1, 2]);
  expect(asked).toEqual([0, 1, 2, 1]);
  // Typed on: who had not the part is not asked for the whole.
  expect(who("foxe")).toEqual([1]);
  expect(asked.slice(4)).toEqual([0, 1, 2]);
  expect(who("foxed")).toEqual([]);
  expect(asked.slice(7)).toEqual([1]);
});
