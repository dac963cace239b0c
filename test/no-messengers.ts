import initSqlJs, { type SqlValue } from "sql.js";
import { Dice } from "./messengers.ts";

/** Databases that have texts and times, and people too, and are no messengers. */

const SQL = await initSqlJs();

const WORDS =
  "wagon stage lamp rope tonight rehearsal bring tent ticket money tomorrow rain show found lost hat sew glue horse wire paint".split(" ");
const NAMES = [
  "Ansa Vask",
  "Brendel Tarnow",
  "Corvin Ryle",
  "Эмма Лисицын",
  "Hedwig Moll",
  "Lorcan Quist",
  "Mirela Zorn",
  "戏柳青",
  "Odran Bellamy",
];
const PLACES = ["Copper Barn", "Lantern Wharf", "Gasworks Arch", "Villahilo", "Lower Marl"];

const sentence = (dice: Dice): string => Array.from({ length: 3 + dice.below(10) }, () => dice.of(WORDS)).join(" ");
type Row = (id: number, at: number, dice: Dice) => SqlValue[];
interface TableOf {
  readonly sql: string;
  readonly rows: number;
  readonly row: Row;
}

const table = (sql: string, rows: number, row: Row): TableOf => ({ sql, rows, row });
const people = table("people(id INTEGER PRIMARY KEY, name TEXT, mail TEXT)", NAMES.length, (id) => [
  id,
  NAMES[id - 1],
  `p${id}@stage.example`,
]);

export const NO_MESSENGERS: Readonly<Record<string, readonly TableOf[]>> = {
  "chores with who does them": [
    people,
    table("board(id INTEGER PRIMARY KEY, title TEXT)", 8, (id, _, dice) => [id, `${dice.of(PLACES)} ${id}`]),
    table("chore(id INTEGER PRIMARY KEY, board INTEGER, doer INTEGER, title TEXT, made INTEGER, done INTEGER)", 700, (id, at, dice) => [
      id,
      1 + dice.below(8),
      dice.is(0.4) ? null : 1 + dice.below(9),
      sentence(dice),
      at,
      Number(dice.is(0.5)),
    ]),
  ],
  notes: [
    table("folder(id INTEGER PRIMARY KEY, title TEXT)", 12, (id, _, dice) => [id, `${dice.of(PLACES)} ${id}`]),
    table(
      "note(id INTEGER PRIMARY KEY, folder INTEGER, head TEXT, body TEXT, made INTEGER, changed INTEGER, pinned INTEGER)",
      500,
      (id, at, dice) => [
        id,
        1 + dice.below(12),
        sentence(dice).slice(0, 20),
        `${sentence(dice)} ${sentence(dice)}`,
        at,
        at + dice.below(9e7),
        Number(dice.is(0.1)),
      ],
    ),
  ],
  "money that came and went": [
    table("account(id INTEGER PRIMARY KEY, name TEXT, number TEXT)", 3, (id) => [id, `Account ${id}`, `ZZ${id}0 4417 9921 000${id}`]),
    table(
      "booking(id INTEGER PRIMARY KEY, account INTEGER, day INTEGER, cents INTEGER, way INTEGER, other TEXT, purpose TEXT)",
      900,
      (id, at, dice) => [id, 1 + dice.below(3), at, dice.below(99_000), dice.below(2), dice.of(NAMES), sentence(dice)],
    ),
  ],
  "shows that were heard": [
    table("series(id INTEGER PRIMARY KEY, title TEXT, maker TEXT)", 14, (id, _, dice) => [id, `${dice.of(PLACES)} hour`, dice.of(NAMES)]),
    table(
      "episode(id INTEGER PRIMARY KEY, series INTEGER, title TEXT, about TEXT, out INTEGER, state INTEGER, file TEXT)",
      600,
      (id, at, dice) => [
        id,
        1 + dice.below(14),
        sentence(dice),
        `${sentence(dice)} ${sentence(dice)}`,
        at,
        dice.below(4),
        dice.is(0.3) ? `pods/${id}.mp3` : null,
      ],
    ),
  ],
  "pages that were visited": [
    table("page(id INTEGER PRIMARY KEY, url TEXT, title TEXT)", 500, (id, _, dice) => [
      id,
      `https://stage.example/${id}/${dice.of(WORDS)}`,
      sentence(dice),
    ]),
    table("visit(id INTEGER PRIMARY KEY, page INTEGER, at INTEGER, how INTEGER)", 1500, (id, at, dice) => [
      id,
      1 + dice.below(500),
      at * 1000,
      dice.below(6),
    ]),
  ],
  "orders of customers": [
    people,
    table("orders(id INTEGER PRIMARY KEY, customer INTEGER, at TEXT, state TEXT, remark TEXT)", 400, (id, at, dice) => [
      id,
      1 + dice.below(9),
      new Date(at).toISOString(),
      dice.of(["open", "paid", "shipped"]),
      dice.is(0.7) ? sentence(dice) : null,
    ]),
  ],
  "books that were lent": [
    people,
    table("loan(id INTEGER PRIMARY KEY, who INTEGER, title TEXT, out INTEGER, back INTEGER)", 600, (id, at, dice) => [
      id,
      1 + dice.below(9),
      sentence(dice),
      at,
      dice.is(0.8) ? at + 9e8 : null,
    ]),
  ],
  "a diary of runs": [
    table("run(id INTEGER PRIMARY KEY, at INTEGER, metres INTEGER, kind INTEGER, remark TEXT)", 500, (id, at, dice) => [
      id,
      Math.floor(at / 1000),
      3000 + dice.below(9000),
      dice.below(3),
      dice.is(0.6) ? sentence(dice) : "",
    ]),
  ],
  "what a program logged": [
    table("line(id INTEGER PRIMARY KEY, at INTEGER, level INTEGER, source TEXT, words TEXT)", 2000, (id, at, dice) => [
      id,
      at,
      dice.below(4),
      dice.of(["net.sync", "ui.main", "db.core"]),
      `${sentence(dice)} in ${dice.below(900)} ms`,
    ]),
  ],
  "pictures with what is on them": [
    people,
    table("picture(id INTEGER PRIMARY KEY, album INTEGER, taken INTEGER, path TEXT, words TEXT, liked INTEGER)", 800, (id, at, dice) => [
      id,
      1 + dice.below(20),
      at,
      `DCIM/${id}.jpg`,
      dice.is(0.5) ? sentence(dice) : null,
      Number(dice.is(0.2)),
    ]),
    table("face(picture INTEGER, person INTEGER)", 900, (_id, _at, dice) => [1 + dice.below(800), 1 + dice.below(9)]),
  ],
  "words that were looked up": [
    table("asked(id INTEGER PRIMARY KEY, words TEXT, at INTEGER, found INTEGER)", 400, (id, at, dice) => [
      id,
      sentence(dice),
      at,
      dice.below(30),
    ]),
  ],
  "a calendar of one's own": [
    table("plan(id INTEGER PRIMARY KEY, name TEXT)", 4, (id, _, dice) => [id, dice.of(PLACES)]),
    table(
      "date(id INTEGER PRIMARY KEY, plan INTEGER, title TEXT, place TEXT, start INTEGER, stop INTEGER, whole INTEGER)",
      500,
      (id, at, dice) => [id, 1 + dice.below(4), sentence(dice), dice.of(PLACES), at, at + 36e5, Number(dice.is(0.2))],
    ),
  ],
};

export function databaseOf(tables: readonly TableOf[], seed = 1): Uint8Array {
  const dice = new Dice(seed);
  const db = new SQL.Database();
  for (const { sql, rows, row } of tables) {
    db.run(`CREATE TABLE ${sql}`);
    const name = sql.slice(0, sql.indexOf("("));
    let at = Date.UTC(2024, 1, 3);
    for (let id = 1; id <= rows; id++) {
      at += 60_000 + dice.below(9_000_000);
      const values = row(id, at, dice);
      db.run(`INSERT INTO ${name} VALUES (${values.map(() => "?").join(",")})`, values);
    }
    db.run(`DELETE FROM ${name} WHERE rowid % 13 = 5`);
  }
  const bytes = db.export();
  db.close();
  return bytes;
}
