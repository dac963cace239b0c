import { describe, expect, test } from "vitest";
import { debuggingSteps } from "./debugging-steps.ts";
import { type Facts, unknownFacts } from "./facts.ts";
import { blankIntake, type Intake } from "./intake.ts";
import { differences } from "./settled.ts";
import { type Sight, stepStates } from "./sights.ts";
import { mayBegin } from "./warnings.ts";
import { CONSENT, WAY_CARDS, waysIn } from "./ways.ts";

const ways = (own: Partial<Intake>, known: Partial<Facts> = {}) => waysIn({ ...blankIntake(), ...own }, { ...unknownFacts(), ...known });
const standing = (own: Partial<Intake>, known: Partial<Facts> = {}) =>
  Object.fromEntries(ways(own, known).map(({ id, standing }) => [id, standing]));
const no = { card: "no", backup: "no" } as const;
const known = {
  root: false,
  debugging: false,
  allowedComputer: false,
  bootloaderUnlocked: false,
  customRecovery: false,
  matchingImage: false,
  recoveryImage: false,
};

test("all eleven ways of the trade are there, each with what it reaches, changes and asks for", () => {
  expect(WAY_CARDS.map(({ name }) => name)).toEqual([
    "Memory card in a reader",
    "File transfer over USB",
    "USB debugging",
    "USB debugging on a rooted phone",
    "Mouse, or adapter with a screen",
    "Computer that was allowed before",
    "Recovery mode with debugging",
    "Bootloader (fastboot) mode",
    "Download mode",
    "New screen",
    "Online backup",
  ]);
  for (const way of ways({})) {
    expect(way.needs.length, way.name).toBeGreaterThan(0);
    expect(way.steps.length, way.name).toBeGreaterThan(0);
    expect(way.minutes[0]).toBeLessThanOrEqual(way.minutes[1]);
  }
});

// The bench's usual phones: what stands open for each.
describe("who comes in", () => {
  const open = (own: Partial<Intake>, facts: Partial<Facts> = {}) =>
    ways({ ...no, ...own }, { ...known, ...facts }).flatMap(({ id, standing: is }) => (is === "open" ? [id] : []));

  test.each<[string, Partial<Intake>, Partial<Facts>, string[]]>([
    ["healthy and open, debugging off", { lock: "open" }, {}, ["debugging", "files"]],
    ["healthy, with a card", { lock: "open", card: "yes" }, {}, ["card", "debugging", "files"]],
    ["locked, the owner knows the code, has not agreed yet", { lock: "owner has the code" }, {}, []],
    ["locked, the owner knows the code and agrees", { lock: "owner has the code", consentAt: 1 }, {}, ["debugging", "files"]],
    ["locked, nobody knows the code", { lock: "nobody has it", consentAt: 1, card: "yes", backup: "yes" }, {}, ["card", "online"]],
    ["touch dead", { lock: "owner has the code", consentAt: 1, symptoms: ["touch dead"] }, {}, ["mouse"]],
    [
      "screen black, debugging allowed before",
      { lock: "owner has the code", consentAt: 1, symptoms: ["screen black"] },
      { allowedComputer: true, debugging: true },
      ["debugging", "mouse", "allowed computer"],
    ],
    [
      "stuck while starting, the matching image at hand",
      { lock: "open", consentAt: 1, symptoms: ["stuck while starting"] },
      { matchingImage: true },
      ["download"],
    ],
    ["stuck while starting, no matching image", { lock: "open", symptoms: ["stuck while starting"] }, {}, []],
    ["with a recovery of its own", { lock: "open", consentAt: 1, symptoms: ["does not start"] }, { customRecovery: true }, ["recovery"]],
    [
      "bootloader unlocked, an image to start",
      { lock: "open", consentAt: 1, symptoms: ["does not start"] },
      { bootloaderUnlocked: true, recoveryImage: true },
      ["recovery", "bootloader"],
    ],
    [
      "rooted",
      { lock: "open", consentAt: 1 },
      { root: true, debugging: true, allowedComputer: true },
      ["rooted", "debugging", "allowed computer", "files"],
    ],
  ])("%s", (_, own, facts, expected) => {
    expect(open(own, facts)).toEqual(expected);
  });
});

describe("the first way that is offered gives what is wanted, and among equals it is the gentlest", () => {
  const want = (...kinds: Intake["wants"][number]["kind"][]): Partial<Intake> => ({
    lock: "open",
    wants: kinds.map((kind) => ({ kind, from: null, to: null, who: "", words: "" })),
  });
  const first = (own: Partial<Intake>, facts: Partial<Facts> = {}) => ways({ ...no, ...own }, { ...known, ...facts })[0].id;
  test.each<[string, Partial<Intake>, Partial<Facts>, string]>([
    ["chats, though a card is inside", { ...want("chats"), card: "yes" }, {}, "debugging"],
    ["chats, while debugging waits to be allowed", want("chats"), { letsIn: false, debugging: true }, "debugging"],
    ["chats of a rooted phone", want("chats"), { root: true, debugging: true, letsIn: true }, "rooted"],
    ["a contact, nothing lost", { ...want("contacts"), loss: "not lost, only out of reach" }, {}, "debugging"],
    ["photos from the card", { ...want("photos"), card: "yes", loss: "deleted by hand" }, {}, "card"],
    ["photos that were erased, no card", { ...want("photos"), loss: "deleted by hand" }, {}, "debugging"],
    [
      "photos that were erased, a rooted phone that encrypts each file: bins are all there is, the gentler way gives them",
      { ...want("photos"), loss: "deleted by hand" },
      { root: true, debugging: true, letsIn: true, encryption: "file based" },
      "debugging",
    ],
    ["photos, nothing lost", { ...want("photos"), loss: "not lost, only out of reach" }, { letsIn: true, debugging: true }, "debugging"],
  ])("%s", (_, own, facts, expected) => expect(first(own, facts)).toBe(expected));

  test("file transfer, which gives nothing of erased photos, stands behind a way that may", () => {
    const list = ways({ ...no, ...want("photos"), lock: null, loss: "deleted by hand" }, {}).map(({ id }) => id);
    expect(list.indexOf("files")).toBeGreaterThan(list.indexOf("rooted"));
    // Though it stands open, and the other is not known to.
    const open = ways({ ...no, ...want("photos"), loss: "deleted by hand" }, {});
    expect(open.find(({ id }) => id === "files")?.standing).toBe("open");
    expect(open.find(({ id }) => id === "rooted")?.standing).toBe("unclear");
    const order = open.map(({ id }) => id);
    expect(order.indexOf("files")).toBeGreaterThan(order.indexOf("rooted"));
  });
});

describe("what the attached phone reports settles the ways at once", () => {
  const unclear = (facts: Partial<Facts>, own: Partial<Intake> = {}) =>
    ways({ backup: "no", ...own }, facts).flatMap(({ id, standing: is }) => (is === "unclear" ? [id] : []));
  test("a ready phone leaves open only what no phone tells: an image at hand, parts, a key", () => {
    const ready = { letsIn: true, debugging: true, locked: false, root: false, bootloaderUnlocked: false, cardInside: true } as const;
    expect(unclear(ready)).toEqual(["recovery", "allowed computer"]);
    expect(unclear({}).length).toBeGreaterThan(unclear(ready).length);
    expect(standing({ card: "no" }, { cardInside: true }).card).toBe("open");
  });
  test("a phone that answers starts, whatever was said of it; a wet one is not switched on to see", () => {
    expect(standing({ lock: "open", symptoms: ["does not start"] }, { letsIn: true, debugging: true }).debugging).toBe("open");
    expect(standing({ lock: "open", symptoms: ["got wet"] }).debugging).toBe("unclear");
    expect(standing({ lock: "open", symptoms: ["got wet"] }, { letsIn: true, debugging: true }).debugging).toBe("open");
  });
  test("where it says otherwise than the intake, that is said", () => {
    const said = (own: Partial<Intake>, facts: Partial<Facts>) =>
      differences({ ...blankIntake(), ...own }, { ...unknownFacts(), ...facts });
    expect(said({}, { cardInside: true, locked: false, letsIn: true })).toEqual([]);
    expect(said({ card: "no" }, { cardInside: true })).toEqual(["The intake says that no card is inside; the phone has one."]);
    expect(said({ lock: "open" }, { locked: true })).toEqual(["The intake says that it is open; its screen is locked now."]);
    expect(said({ symptoms: ["stuck while starting"] }, { letsIn: false })).toEqual([
      "The intake says that it does not start; its system runs.",
    ]);
    // That it stands open makes nobody its owner.
    expect(said({ lock: "nobody has it" }, { locked: false })[0]).toMatch(/owner is to be shown/);
    expect(mayBegin({ ...blankIntake(), lock: "nobody has it" }, { ...unknownFacts(), locked: false })).toBe(false);
    expect(mayBegin(blankIntake(), { ...unknownFacts(), locked: false })).toBe(true);
    expect(mayBegin(blankIntake(), unknownFacts())).toBe(false);
  });
});

test("what is not known makes a way unclear, never open or closed", () => {
  expect(standing({})).toMatchObject({ card: "unclear", files: "unclear", rooted: "unclear", online: "unclear", recovery: "unclear" });
});

test("a way that has no use says why, and stands last", () => {
  const list = ways({ ...no, lock: "open" }, known);
  expect(list.slice(-3).map(({ id, because }) => [id, because])).toEqual([
    ["mouse", "picture and touch work"],
    ["download", "the phone starts"],
    ["screen", "picture and touch work"],
  ]);
});

test("without proof and consent no way that opens a locked phone stands open, whatever else is there", () => {
  const everything = {
    root: true,
    debugging: true,
    allowedComputer: true,
    bootloaderUnlocked: true,
    customRecovery: true,
    matchingImage: true,
    recoveryImage: true,
  };
  for (const lock of ["owner has the code", "nobody has it"] as const)
    for (const symptoms of [[], ["screen black"], ["does not start"]] as Intake["symptoms"][])
      for (const way of ways({ lock, symptoms, ...no }, everything)) expect(way.standing, `${way.id}, ${lock}`).not.toBe("open");
});

test("debugging is switched on as the version wants it", () => {
  const words = (version: number | null) => debuggingSteps(version).map((step) => step.words);
  expect(words(3)).toEqual(["Settings → Applications → Development → USB debugging: on."]);
  expect(words(4)[0]).toMatch(/Look in Settings .* 7 times/);
  for (const version of [5, 14, null]) expect(words(version)[0]).toMatch(/tap “Build number” 7 times/);
});

test("that the owner was shown and agrees is met only when it was ticked, open phones too", () => {
  const consent = (own: Partial<Intake>) =>
    ways({ ...no, ...own }, { ...known, customRecovery: true })
      .find(({ id }) => id === "recovery")
      ?.needs.find(({ what }) => what === CONSENT)?.state;
  expect(consent({ lock: "open" })).toBe("unknown");
  expect(consent({ lock: "open", consentAt: 1 })).toBe("met");
  expect(consent({ lock: "owner has the code" })).toBe("missing");
});

describe("steps tick themselves only when their turn came and they were seen", () => {
  const of = (id: string, ...seen: Sight[]) => {
    const card = WAY_CARDS.find((one) => one.id === id);
    return stepStates(card?.steps({ ...unknownFacts(), android: 12 }) ?? [], new Set(seen));
  };
  test.each<[string, Sight[], string[]]>([
    ["card", [], ["later", "later", "now"]],
    ["card", ["storage is readable"], ["passed", "passed", "done"]],
    // Storage that is readable by another way does not tick what was never seen before it.
    ["rooted", ["gave elevated access"], ["now", "later", "later", "later", "later"]],
    ["rooted", ["attached"], ["done", "later", "now", "later", "later"]],
    ["rooted", ["attached", "debugging is on"], ["done", "passed", "done", "now", "later"]],
    [
      "rooted",
      ["attached", "debugging is on", "lets this computer in", "gave elevated access"],
      ["done", "passed", "done", "done", "done"],
    ],
    // Bootloader mode is gone when the recovery runs that was started from it.
    ["bootloader", ["attached", "in recovery"], ["passed", "done", "done"]],
    ["bootloader", ["attached", "in bootloader"], ["passed", "done", "now"]],
  ])("%s, seen: %j", (id, seen, states) => {
    expect(of(id, ...seen)).toEqual(states);
  });
});
