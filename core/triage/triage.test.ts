import { describe, expect, test } from "vitest";
import { daysLeft, easyPlaces } from "./easy-places.ts";
import { type Facts, likelyEncryption, unknownFacts } from "./facts.ts";
import { forecast } from "./forecast.ts";
import { blankIntake, Intake, mayBeOpened, openAnswers, type Wanted, wantWords } from "./intake.ts";
import { wantsFromText } from "./spoken-wants.ts";
import { mayBegin, warnings } from "./warnings.ts";

const intake = (own: Partial<Intake> = {}): Intake => ({ ...blankIntake(), ...own });
const facts = (own: Partial<Facts> = {}): Facts => ({ ...unknownFacts(), ...own });
const wanting = (...kinds: Wanted[]) => kinds.map((kind) => ({ kind, from: null, to: null, who: "", words: "" }));
const erased = { loss: "deleted by hand", lostOn: "2026-05-12", used: "a little", lock: "open" } as const;
/** "kind at place: word", for whole answers. */
const told = (own: Partial<Intake>, known: Partial<Facts> = {}) =>
  forecast(intake(own), facts(known)).expectations.map(({ kind, place, expected }) => `${kind}, ${place}: ${expected}`);

describe("the forecast", () => {
  // Handbook of the trade, section 1: each row is one of its facts.
  test.each<[string, Partial<Intake>, Partial<Facts>, string[]]>([
    [
      "file-based encryption leaves bins and small copies",
      { ...erased, wants: wanting("photos") },
      { android: 12 },
      ["photos, phone: small copies"],
    ],
    [
      "a card is read whole, and outlives the phone's encryption",
      { ...erased, card: "yes", wants: wanting("photos") },
      { android: 12 },
      ["photos, memory card: most", "photos, phone: small copies"],
    ],
    [
      "a quick-formatted card keeps most, without names",
      { loss: "card formatted", used: "off", card: "yes", lock: "open", wants: wanting("photos") },
      { android: 12 },
      ["photos, memory card: most", "photos, phone: small copies"],
    ],
    [
      "nightly trim leaves few erased files on a phone with full-disk encryption",
      { ...erased, wants: wanting("photos") },
      { android: 8, root: true },
      ["photos, phone: a few"],
    ],
    [
      "without encryption, trim or use, most of it is there",
      { ...erased, used: "off", wants: wanting("photos") },
      { android: 4, trims: false, root: true },
      ["photos, phone: all"],
    ],
    [
      "long videos suffer first",
      { ...erased, used: "always", wants: wanting("videos", "documents") },
      { android: 4, trims: false, root: true },
      ["videos, phone: a few", "documents, phone: some"],
    ],
    [
      "what was not erased only has to be reached",
      { loss: "not lost, only out of reach", lock: "open", wants: wanting("messages") },
      {},
      ["messages, phone: all"],
    ],
    [
      "deleted rows stay for a while",
      { ...erased, used: "off", wants: wanting("messages", "calls") },
      { android: 13, root: true },
      ["messages, phone: most", "calls, phone: most"],
    ],
    [
      "and for a short while in a phone that is used",
      { ...erased, used: "always", wants: wanting("messages") },
      { android: 13, root: true },
      ["messages, phone: some"],
    ],
    [
      "a reset destroys the key",
      { ...erased, loss: "factory reset", wants: wanting("photos", "messages") },
      { android: 9 },
      ["photos, phone: nothing", "messages, phone: nothing"],
    ],
    [
      "a locked phone without a code gives nothing, its card does",
      { ...erased, lock: "nobody has it", card: "yes", wants: wanting("photos") },
      {},
      ["photos, memory card: most", "photos, phone: nothing"],
    ],
  ])("%s", (_, own, known, expected) => {
    expect(told(own, known)).toEqual(expected);
  });

  // The handbook, section 2: plain debugging reaches neither erased blocks nor other apps' rows, and unlocking to get there wipes.
  test("promises only what a way that stands open reaches, and says what is lacking", () => {
    const off = { ...erased, used: "off", wants: wanting("photos", "messages", "chats", "contacts") } as const;
    const shut = {
      android: 9,
      encryption: "none",
      trims: false,
      root: false,
      bootloaderUnlocked: false,
      customRecovery: false,
      debugging: true,
    } as const;
    expect(told(off, shut)).toEqual([
      "photos, phone: small copies",
      "contacts, phone: some",
      "messages, phone: a few",
      "chats, phone: a few",
    ]);
    for (const { reasons } of forecast(intake(off), facts(shut)).expectations)
      expect(reasons[0]).toMatch(/need elevated access or a raw copy: no way that stands open gives it/);
    // Not known is not open.
    for (const { reasons } of forecast(intake(off), facts({ ...shut, root: null })).expectations)
      expect(reasons[0]).toMatch(/need elevated access or a raw copy: whether this phone gives it is not known yet/);
    // Each of the ways to blocks opens it: root, a recovery that is there, one that can be started.
    for (const gives of [{ root: true }, { customRecovery: true }, { bootloaderUnlocked: true, recoveryImage: true }])
      expect(told({ ...off, consentAt: 1 }, { ...shut, ...gives }), JSON.stringify(gives)).toContain("photos, phone: all");
  });

  test("where no way in stands open at all, nothing is promised, not even what was never erased", () => {
    const dead = {
      loss: "not lost, only out of reach",
      lock: "open",
      consentAt: 1,
      symptoms: ["does not start"],
      wants: wanting("photos"),
    } as const;
    const none = { root: false, bootloaderUnlocked: false, customRecovery: false, matchingImage: false };
    expect(told({ ...dead, symptoms: [...dead.symptoms] }, none)).toEqual(["photos, phone: nothing"]);
    expect(told({ ...dead, symptoms: [...dead.symptoms] }, { ...none, matchingImage: true })).toEqual(["photos, phone: all"]);
    expect(told({ ...dead, symptoms: [], wants: wanting("chats") }, none)).toEqual(["chats, phone: some"]);
  });

  test("says before any long work that nothing is to be had, and why", () => {
    const reset = intake({ ...erased, loss: "factory reset", wants: wanting("photos", "messages") });
    expect(forecast(reset, facts({ android: 11 })).nothing).toBe(
      "Nothing to expect, because a factory reset destroyed the key of its encryption.",
    );
    expect(forecast({ ...reset, card: "yes" }, facts({ android: 11 })).nothing).toBeNull();
    expect(forecast({ ...reset, backup: "yes" }, facts({ android: 11 })).nothing).toBeNull();
    expect(forecast(intake({ ...erased, lock: "nobody has it", wants: wanting("calls") }), facts()).nothing).toMatch(
      /locked and nobody has the code/,
    );
  });

  test("measured bytes beat the guess, and are named", () => {
    const measured = { root: true, trims: false, encryption: "none", free: 11e9, writtenSince: 0.6e9 } as const;
    const [photos] = forecast(intake({ ...erased, used: "always", wants: wanting("photos") }), facts(measured)).expectations;
    expect(photos.reasons).toContain("about 0.6 of 11.0 GB free were written since");
    expect(photos.part).toBeCloseTo(Math.exp((-0.6 / 11) * 2), 6);
  });

  test("more use, more trim or stronger encryption never raise an expectation; every one has a reason", () => {
    const part = (own: Partial<Intake>, known: Partial<Facts>) =>
      forecast(intake({ ...erased, ...own, wants: wanting("photos") }), facts(known)).expectations[0];
    const order = [
      [{ used: "off" }, { encryption: "none", trims: false }],
      [{ used: "a little" }, { encryption: "none", trims: false }],
      [{ used: "always" }, { encryption: "none", trims: false }],
      [{ used: "always" }, { encryption: "none" }],
      [{ used: "always" }, { encryption: "none", trims: true }],
      [{ used: "always" }, { encryption: "full disk", trims: true }],
    ] as const;
    const parts = order.map(([own, known]) => part(own, { root: true, ...known }));
    for (let at = 1; at < parts.length; at++) expect(parts[at].part).toBeLessThanOrEqual(parts[at - 1].part);
    for (const { reasons } of parts) expect(reasons.length).toBeGreaterThan(0);
  });
});

test("what an Android version makes likely, until it is read off", () => {
  expect([3, 7, 10, 14].map((android) => likelyEncryption(facts({ android })).is)).toEqual([
    "none",
    "full disk",
    "file based",
    "file based",
  ]);
  expect(likelyEncryption(facts({ android: 14, encryption: "none" }))).toEqual({ is: "none", guessed: false });
  expect(likelyEncryption(facts())).toEqual({ is: null, guessed: true });
});

describe("warnings", () => {
  const what = (own: Partial<Intake>, known: Partial<Facts> = {}) => warnings(intake(own), facts(known)).map((one) => one.what);

  test("the weightiest first; what is not lost needs no haste", () => {
    expect(what({ ...erased, card: "yes" }, { battery: 64 })).toEqual([
      "Stop using the phone.",
      "Take the memory card out before anything else.",
      "Battery at 64 %: enough.",
      "Do not reset, update or unlock the bootloader.",
    ]);
    expect(what({ loss: "not lost, only out of reach", lock: "open" })).toEqual([]);
    expect(what({ symptoms: ["got wet"], lock: "owner has the code" }).slice(0, 2)).toEqual([
      "Proof of ownership and consent are missing.",
      "Do not charge it, do not switch it on.",
    ]);
  });

  test.each<[string, Partial<Intake>, Partial<Facts>, boolean]>([
    ["open and charged", { lock: "open" }, { battery: 20 }, true],
    ["below 20 %", { lock: "open" }, { battery: 19 }, false],
    ["locked, without consent", { lock: "owner has the code" }, {}, false],
    ["locked, with consent", { lock: "owner has the code", consentAt: 1 }, {}, true],
    ["nobody has the code, without consent", { lock: "nobody has it" }, {}, false],
    // No lock is broken: what is left is a computer that was allowed before, the card, a backup.
    ["nobody has the code, with consent", { lock: "nobody has it", consentAt: 1 }, {}, true],
    ["not asked yet", {}, {}, false],
    ["wet", { lock: "open", symptoms: ["got wet"] }, {}, false],
  ])("work on the phone may begin: %s", (_, own, known, expected) => {
    expect(mayBegin(intake(own), facts(known))).toBe(expected);
  });
});

test("easy places come with their last days, over the end of a month and of February", () => {
  const untils = (lostOn: string) => easyPlaces(intake({ lostOn, wants: wanting("photos") })).map(({ until }) => until);
  expect(untils("2026-05-12")).toEqual([["2026-06-11"], ["2026-06-11", "2026-05-27"], []]);
  expect(untils("2028-02-14")).toEqual([["2028-03-15"], ["2028-03-15", "2028-02-29"], []]);
  expect([daysLeft("2026-06-11", "2026-05-26"), daysLeft("2026-05-27", "2026-05-28")]).toEqual([16, -1]);
  expect(easyPlaces(intake({ wants: wanting("contacts") })).map(({ what }) => what)).toEqual([
    "Contacts that are only hidden",
    "Backups: online, on a computer, on an older card",
  ]);
});

test("wants read as people say them", () => {
  const want = { kind: "photos", from: "2026-05-02", to: "2026-05-09", who: "", words: "" } as const;
  expect(wantWords(want)).toBe("photos 2–9 May");
  expect(wantWords({ ...want, from: "2026-04-28", words: "the tour" })).toBe("photos 28 Apr–9 May · the tour");
  expect(wantWords({ ...want, to: null })).toBe("photos since 2 May");
  expect(wantWords({ ...want, kind: "messages", who: "Ana" })).toBe("messages with Ana 2–9 May");
});

test("wants that were said in a line are taken apart: kinds, days, with whom; what is none of these is words", () => {
  const today = new Date("2026-05-20T12:00:00Z");
  const said = (text: string) => wantsFromText(text, today).map(({ kind, from, to, who, words }) => [kind, from, to, who, words]);
  expect(said("photos 2–9 May, the Lantern poster;\n")).toEqual([
    ["photos", "2026-05-02", "2026-05-09", "", ""],
    ["any kind", null, null, "", "the Lantern poster"],
  ]);
  expect(said("messages about the second wagon, calls of April; chats with Ana Dorin")).toEqual([
    ["messages", null, null, "", "the second wagon"],
    ["calls", "2026-04-01", "2026-04-30", "", ""],
    ["chats", null, null, "Ana Dorin", ""],
  ]);
  // Without a year it is the last such day; with one that one.
  expect(said("videos 3 June, photos 29 Feb 2024")).toEqual([
    ["videos", "2025-06-03", "2025-06-03", "", ""],
    ["photos", "2024-02-29", "2024-02-29", "", ""],
  ]);
  // No such day, no such order, half a word: they are words.
  expect(said("photos 31 June, photos 9–2 May, photosphere, May")).toEqual([
    ["photos", null, null, "", "31 June"],
    ["photos", null, null, "", "9–2 May"],
    ["any kind", null, null, "", "photosphere"],
    ["any kind", null, null, "", "May"],
  ]);
});

test("an intake asks on only for what changes the forecast", () => {
  expect(openAnswers(intake())).toEqual(["is it locked?", "what is wanted?", "how was it lost?", "is a card inside?"]);
  expect(openAnswers(intake({ ...erased, wants: wanting("photos"), card: "no" }))).toEqual([]);
  expect(openAnswers(intake({ loss: "deleted by hand", lock: "open", wants: wanting("photos"), card: "no" }))).toEqual([
    "when?",
    "used since?",
  ]);
  expect(mayBeOpened(intake({ lock: "owner has the code" }))).toBe(false);
});

test.each<[string, unknown]>([
  ["a day that no calendar has", { lostOn: "2026-02-30" }],
  ["a symptom nobody knows", { symptoms: ["haunted"] }],
  ["a want of an unknown kind", { wants: [{ kind: "dreams", from: null, to: null, words: "" }] }],
])("%s is refused", (_, own) => {
  expect(Intake.safeParse({ ...blankIntake(), ...(own as object) }).success).toBe(false);
});
