import { expect, test } from "vitest";
import { wantsFromText } from "../triage/spoken-wants.ts";
import { findsWanted, peopleWanted } from "./questions.ts";

test("a want is a question to the finds, to people's data, or to both", () => {
  const [photos, poster, calls] = wantsFromText("photos 2–9 May 2026, the Lantern poster, calls with Ana");
  expect(findsWanted(photos)).toMatchObject({ kinds: ["photo"], days: { from: 20_575, to: 20_582 }, words: "" });
  expect(peopleWanted(photos)).toBeNull();
  expect(findsWanted(poster)).toMatchObject({ words: "Lantern poster", days: null });
  expect(peopleWanted(poster)).toMatchObject({ words: "Lantern poster", who: "" });
  expect(findsWanted(calls)).toBeNull();
  expect(peopleWanted(calls)).toEqual({ kinds: ["call"], days: null, who: "Ana", words: "" });
  expect(findsWanted({ ...poster, words: "the" })).toMatchObject({ words: "the" });
});
