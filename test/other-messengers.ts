import initSqlJs from "sql.js";
import { seeded } from "../demo/random.ts";
import type { Messenger, Said, Talk } from "./messengers.ts";

/**
 * Messengers whose tables hang together in other ways than those that are drawn by chance (test/messengers.ts): thought of one by one, each after a way that
 * apps keep messages (common practice, no source). Names of tables and columns say nothing.
 */

type Value = string | number | null | Uint8Array;
export type Statement = readonly [sql: string, values: readonly Value[]] | string;
type Told = Pick<Messenger, "said" | "talks">;
export interface Shape {
  /** Nobody writes to groups. */
  readonly isAlone?: boolean;
  readonly statements: (told: Told, random: () => number) => readonly Statement[];
  readonly erase: (said: Said) => Statement;
}

const DAY = 86_400_000;
const WORDS =
  "the fox rope lantern stage we open at eight who has key wagon house full tonight they loved crocodile load in nine gate code fee paid rehearsal moved barn wet bring long moon rig snapped again tell them yes before wake up dry grumpy".split(
    " ",
  );
const NAMES = [
  "Ansa Korp",
  "Brendel Voss",
  "Corvin Ryle",
  "Delphine Aum",
  "Эмма Речная",
  "Gordo Lind",
  "Hedwig Moll",
  "Ilse Marwitz",
  "Jorun Falk",
];
export const PEOPLE = NAMES.map((name, index) => ({ id: index + 2, name, address: `+4477009001${10 + index}` }));
export const OWNER = { id: 1, name: "Mirela Own", address: "+447700900999" };
/** What groups are called. */
export const GROUPS = ["Troupe", "Night crew", "Barn", "Fox den"];

/** Made by a program from a number: the same for the same number. */
export const uuid = (of: number): string => {
  const random = seeded(of + 5000);
  return [8, 4, 4, 4, 12].map((length) => Array.from({ length }, () => "0123456789abcdef"[Math.floor(random() * 16)]).join("")).join("-");
};
/** The same as bytes: a key of 128 bits. */
const key = (of: number): Uint8Array => Uint8Array.from(Buffer.from(uuid(of).replaceAll("-", ""), "hex"));
const talkKey = ({ id }: Talk) => key(100 + id);
const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];
/** People, and what conversations are called, by small numbers. */
const tablesOfPeople = (talks: readonly Talk[]): Statement[] => [
  "CREATE TABLE zb (ka INTEGER PRIMARY KEY, kb TEXT)",
  "CREATE TABLE zc (ka INTEGER PRIMARY KEY, kb TEXT, kc TEXT)",
  ...talks.map((talk): Statement => ["INSERT INTO zb VALUES (?,?)", [talk.id, talk.title]]),
  ...PEOPLE.map(({ id, name, address }): Statement => ["INSERT INTO zc VALUES (?,?,?)", [id, name, address]]),
];
/** Messages with a time that is written out in one column or two. */
const writtenOut = (columns: number, written: (at: Date) => readonly Value[]): Shape => ({
  statements: ({ said, talks }) => [
    `CREATE TABLE za (ka INTEGER PRIMARY KEY, kb INTEGER, kc INTEGER, kd TEXT${columns > 1 ? ", ke, kf" : ", ke"})`,
    ...tablesOfPeople(talks),
    ...said.map(
      (one): Statement => [
        `INSERT INTO za VALUES (?,?,?,?${",?".repeat(columns)})`,
        [one.id, one.talk.id, one.sender?.id ?? null, one.text, ...written(new Date(one.at))],
      ],
    ),
  ],
  erase: ({ id }) => ["DELETE FROM za WHERE ka=?", [id]],
});
export const writer = ({ sender }: Said) => sender ?? OWNER;
export const talkUuid = ({ id }: Talk) => uuid(100 + id);
export const isOut = ({ direction }: Said): number => (direction === "out" ? 1 : 0);
const named = ({ id }: { readonly id: number }) => `@q${id}:talk.example`;
const tableOf = ({ id }: Talk) => `zt_${uuid(100 + id).slice(0, 8)}`;
const at = ({ address }: { readonly address: string }) => `${address.slice(1)}@talk.example`;

export const OTHER_SHAPES: Readonly<Record<string, Shape>> = {
  "people, conversations and the owner by long keys, nine people in all": {
    statements: ({ said, talks }) => [
      "CREATE TABLE za (ka TEXT PRIMARY KEY, kb TEXT, kc TEXT, kd TEXT, ke INTEGER, kf TEXT)",
      "CREATE TABLE zb (ka TEXT PRIMARY KEY, kb TEXT, kc TEXT)",
      "CREATE TABLE zc (ka TEXT PRIMARY KEY, kb TEXT, kc TEXT)",
      "CREATE TABLE zd (ka TEXT)",
      "CREATE TABLE ze (ka TEXT, kb TEXT)",
      ["INSERT INTO zd VALUES (?)", [uuid(OWNER.id)]],
      ...talks.flatMap((talk): Statement[] => [
        ["INSERT INTO zb VALUES (?,?,?)", [talkUuid(talk), talk.title, talk.group ? "g" : "d"]],
        ...talk.members.map(({ id }): Statement => ["INSERT INTO ze VALUES (?,?)", [talkUuid(talk), uuid(id)]]),
      ]),
      ...[OWNER, ...PEOPLE].map(({ id, name, address }): Statement => ["INSERT INTO zc VALUES (?,?,?)", [uuid(id), name, address]]),
      ...said.map(
        (one): Statement => [
          "INSERT INTO za VALUES (?,?,?,?,?,?)",
          [uuid(1000 + one.id), talkUuid(one.talk), uuid(writer(one).id), one.text, one.at, isOut(one) ? "s" : "r"],
        ],
      ),
    ],
    erase: ({ id }) => ["DELETE FROM za WHERE ka=?", [uuid(1000 + id)]],
  },
  "messages to one and to groups in tables of their own": {
    statements: ({ said, talks }) => [
      // Nothing but its name says which side is which.
      "CREATE TABLE za (ka INTEGER PRIMARY KEY, kb TEXT, outgoing INTEGER, kd INTEGER, ke TEXT)",
      "CREATE TABLE zb (ka INTEGER PRIMARY KEY, kb INTEGER, kc TEXT, kd INTEGER, ke TEXT)",
      "CREATE TABLE zc (ka INTEGER PRIMARY KEY, kb TEXT)",
      ...talks.filter(({ group }) => group).map(({ id, title }): Statement => ["INSERT INTO zc VALUES (?,?)", [id, title]]),
      ...said.map(
        (one): Statement =>
          one.talk.group
            ? ["INSERT INTO zb VALUES (?,?,?,?,?)", [one.id, one.talk.id, writer(one).address, one.at, one.text]]
            : ["INSERT INTO za VALUES (?,?,?,?,?)", [one.id, one.talk.members[0].address, isOut(one), one.at, one.text]],
      ),
    ],
    erase: ({ id, talk }) => `DELETE FROM ${talk.group ? "zb" : "za"} WHERE ka=${id}`,
  },
  "older messages in a table of their own, with the same conversations": {
    statements: ({ said }) => [
      ...["za", "zb"].map(
        (table) => `CREATE TABLE ${table} (ka INTEGER PRIMARY KEY, kb INTEGER, kc TEXT, kd INTEGER, ke INTEGER, kf TEXT)`,
      ),
      ...said.map(
        (one): Statement => [
          `INSERT INTO ${one.id < 300 ? "zb" : "za"} VALUES (?,?,?,?,?,?)`,
          [one.id, one.talk.id, one.sender?.address ?? null, isOut(one), one.at, one.text],
        ],
      ),
    ],
    erase: ({ id }) => `DELETE FROM ${id < 300 ? "zb" : "za"} WHERE ka=${id}`,
  },
  "only groups say who wrote": {
    statements: ({ said }, random) => [
      "CREATE TABLE za (ka INTEGER PRIMARY KEY, kb TEXT, kc INTEGER, kd TEXT, ke INTEGER, kf TEXT, kg INTEGER, kh TEXT)",
      ...said.map(
        (one): Statement => [
          "INSERT INTO za VALUES (?,?,?,?,?,?,?,?)",
          [
            one.id,
            one.talk.group ? `${one.talk.id}17000@room.example` : at(one.talk.members[0]),
            isOut(one),
            uuid(one.id),
            isOut(one) ? [4, 5, 13][Math.floor(random() * 3)] : 0,
            one.text,
            one.at,
            one.talk.group && one.sender ? at(one.sender) : null,
          ],
        ],
      ),
    ],
    erase: ({ id }) => `DELETE FROM za WHERE ka=${id}`,
  },
  "a document in each row, with the sender's name in it": {
    statements: ({ said }) => [
      "CREATE TABLE za (ka TEXT PRIMARY KEY, kb TEXT)",
      ...said.map(
        (one): Statement => [
          "INSERT INTO za VALUES (?,?)",
          [
            uuid(one.id),
            JSON.stringify({
              a: talkUuid(one.talk),
              b: { a: uuid(writer(one).id), b: writer(one).name },
              c: isOut(one) === 1,
              d: one.at,
              e: one.text,
            }),
          ],
        ],
      ),
    ],
    erase: ({ id }) => ["DELETE FROM za WHERE ka=?", [uuid(id)]],
  },
  "rows without numbers, by conversation and place in it": {
    statements: ({ said, talks }) => [
      "CREATE TABLE za (ka INTEGER, kb INTEGER, kc INTEGER, kd INTEGER, ke TEXT, PRIMARY KEY(ka, kb)) WITHOUT ROWID",
      "CREATE TABLE zb (ka INTEGER PRIMARY KEY, kb TEXT)",
      "CREATE TABLE zc (ka INTEGER PRIMARY KEY, kb TEXT, kc TEXT, kd INTEGER)",
      ...talks.map(({ id, title }): Statement => ["INSERT INTO zb VALUES (?,?)", [id, title]]),
      ...[OWNER, ...PEOPLE].map(
        (one): Statement => ["INSERT INTO zc VALUES (?,?,?,?)", [one.id, one.name, one.address, one === OWNER ? 1 : 0]],
      ),
      ...said.map(
        (one): Statement => [
          "INSERT INTO za VALUES (?,?,?,?,?)",
          [one.talk.id, one.id, writer(one).id, Math.floor(one.at / 1000), one.text],
        ],
      ),
    ],
    erase: ({ id, talk }) => `DELETE FROM za WHERE ka=${talk.id} AND kb=${id}`,
  },
  "reactions, former texts, notices and plans beside the messages, and what was said last beside the titles": {
    statements: ({ said, talks }, random) => [
      "CREATE TABLE za (ka INTEGER PRIMARY KEY, kb INTEGER, kc INTEGER, kd TEXT, ke INTEGER)",
      "CREATE TABLE zb (ka INTEGER PRIMARY KEY, kb TEXT, kc TEXT, kd INTEGER)",
      "CREATE TABLE zc (ka INTEGER PRIMARY KEY, kb TEXT, kc TEXT)",
      "CREATE TABLE zd (ka INTEGER PRIMARY KEY, kb INTEGER, kc INTEGER, kd TEXT, ke INTEGER)",
      "CREATE TABLE ze (ka INTEGER PRIMARY KEY, kb INTEGER, kc TEXT, kd INTEGER)",
      "CREATE TABLE zf (ka INTEGER PRIMARY KEY, kb TEXT, kc TEXT, kd INTEGER, ke INTEGER)",
      "CREATE TABLE zg (ka INTEGER PRIMARY KEY, kb INTEGER, kc TEXT, kd INTEGER)",
      ...talks.map(
        ({ id, title, members }): Statement => [
          "INSERT INTO zb VALUES (?,?,?,?)",
          [id, title ?? members[0].name, said[id * 7].text, said[id * 7].at],
        ],
      ),
      ...[OWNER, ...PEOPLE].map((one): Statement => ["INSERT INTO zc VALUES (?,?,?)", [one.id, one.name, one.address]]),
      ...said.flatMap((one): Statement[] => [
        ["INSERT INTO za VALUES (?,?,?,?,?)", [one.id, one.talk.id, writer(one).id, one.text, one.at]],
        ...(random() < 0.3
          ? [
              [
                "INSERT INTO zd (kb, kc, kd, ke) VALUES (?,?,?,?)",
                [one.id, one.talk.members[0].id, ["👍", "haha nice", "so true"][one.id % 3], one.at + 9000],
              ] as const,
            ]
          : []),
        ...(random() < 0.1
          ? [["INSERT INTO ze (kb, kc, kd) VALUES (?,?,?)", [one.id, `No: ${one.text} ${one.id}`, one.at + 60_000]] as const]
          : []),
        ...(one.sender
          ? [["INSERT INTO zf (kb, kc, kd, ke) VALUES (?,?,?,?)", [one.sender.name, one.text, one.at + 300, one.id % 2]] as const]
          : []),
        ...(random() < 0.05
          ? [["INSERT INTO zg (kb, kc, kd) VALUES (?,?,?)", [one.talk.id, `Not sent yet ${one.text} ${one.id}`, one.at + DAY]] as const]
          : []),
      ]),
    ],
    erase: ({ id }) => `DELETE FROM za WHERE ka=${id}`,
  },
  "numbers of people that are numbers of conversations too": {
    statements: ({ said, talks }, random) => [
      "CREATE TABLE za (ka INTEGER PRIMARY KEY, kb INTEGER, kc INTEGER, kd INTEGER, ke REAL, kf TEXT, kg INTEGER)",
      "CREATE TABLE zb (ka INTEGER PRIMARY KEY, kb TEXT, kc TEXT)",
      "CREATE TABLE zc (ka INTEGER PRIMARY KEY, kb TEXT, kc TEXT)",
      ...talks.map(
        ({ id, title, members }): Statement => ["INSERT INTO zc VALUES (?,?,?)", [id, title, JSON.stringify(members.map((one) => one.id))]],
      ),
      ...PEOPLE.map(({ id, name, address }): Statement => ["INSERT INTO zb VALUES (?,?,?)", [id, address, name]]),
      ...said.map(
        (one): Statement => [
          "INSERT INTO za VALUES (?,?,?,?,?,?,?)",
          [
            one.id,
            one.talk.id,
            one.sender?.id ?? null,
            isOut(one) ? 1 + Math.floor(random() * 4) : 0,
            one.at / 1000,
            one.text,
            [0, 0, 16, 64][Math.floor(random() * 4)],
          ],
        ],
      ),
    ],
    erase: ({ id }) => `DELETE FROM za WHERE ka=${id}`,
  },
  "reactions and receipts among the messages, each naming one": {
    statements: ({ said, talks }, random) => [
      "CREATE TABLE za (ka INTEGER PRIMARY KEY, kb INTEGER, kc INTEGER, kd INTEGER, ke INTEGER, kf TEXT, kg INTEGER)",
      ...tablesOfPeople(talks),
      ...said.flatMap((one): Statement[] => {
        const [who] = one.talk.members;
        const row = (number: number, sender: number | null, later: number, kind: number, text: string | null, named: number | null) =>
          ["INSERT INTO za VALUES (?,?,?,?,?,?,?)", [3 * one.id + number, one.talk.id, sender, one.at + later, kind, text, named]] as const;
        return [
          // Some messages answer an earlier one.
          row(0, one.sender?.id ?? null, 0, 0, one.text, random() < 0.1 && one.id > 3 ? 3 * (one.id - 2) : null),
          ...(random() < 0.25 ? [row(1, random() < 0.5 ? who.id : null, 4000, 7, random() < 0.6 ? "👍" : "❤️", 3 * one.id)] : []),
          ...(random() < 0.3 ? [row(2, who.id, 1500, 9, null, 3 * one.id)] : []),
        ];
      }),
    ],
    erase: ({ id }) => ["DELETE FROM za WHERE ka=?", [3 * id]],
  },
  "keys of sixteen bytes": {
    statements: ({ said, talks }) => [
      "CREATE TABLE za (ka BLOB PRIMARY KEY, kb BLOB, kc BLOB, kd INTEGER, ke TEXT)",
      "CREATE TABLE zb (ka BLOB PRIMARY KEY, kb TEXT, kc INTEGER)",
      "CREATE TABLE zc (ka BLOB PRIMARY KEY, kb TEXT, kc TEXT)",
      "CREATE TABLE zd (ka BLOB, kb BLOB)",
      "CREATE TABLE ze (ka BLOB)",
      ["INSERT INTO ze VALUES (?)", [key(OWNER.id)]],
      ...talks.flatMap((talk): Statement[] => [
        ["INSERT INTO zb VALUES (?,?,?)", [talkKey(talk), talk.title, talk.group ? 1 : 0]],
        ...[OWNER, ...talk.members].map(({ id }): Statement => ["INSERT INTO zd VALUES (?,?)", [talkKey(talk), key(id)]]),
      ]),
      ...[OWNER, ...PEOPLE].map(({ id, name, address }): Statement => ["INSERT INTO zc VALUES (?,?,?)", [key(id), name, address]]),
      ...said.map(
        (one): Statement => [
          "INSERT INTO za VALUES (?,?,?,?,?)",
          [key(1000 + one.id), talkKey(one.talk), key(writer(one).id), one.at, one.text],
        ],
      ),
    ],
    erase: ({ id }) => ["DELETE FROM za WHERE ka=?", [key(1000 + id)]],
  },
  "names at a server, and documents": {
    statements: ({ said, talks }) => [
      "CREATE TABLE za (ka INTEGER PRIMARY KEY, kb TEXT, kc TEXT, kd INTEGER, ke TEXT)",
      "CREATE TABLE zb (ka TEXT PRIMARY KEY, kb TEXT)",
      "CREATE TABLE zc (ka TEXT, kb TEXT, kc TEXT)",
      "CREATE TABLE zd (ka TEXT)",
      ["INSERT INTO zd VALUES (?)", [named(OWNER)]],
      ...talks.map((talk): Statement => ["INSERT INTO zb VALUES (?,?)", [`!${talk.id}q:talk.example`, talk.title]]),
      ...[OWNER, ...PEOPLE].map((one): Statement => ["INSERT INTO zc VALUES (?,?,?)", [named(one), one.name, one.address]]),
      ...said.map(
        (one): Statement => [
          "INSERT INTO za VALUES (?,?,?,?,?)",
          [one.id, `!${one.talk.id}q:talk.example`, named(writer(one)), one.at, JSON.stringify({ b: one.text, t: "x" })],
        ],
      ),
    ],
    erase: ({ id }) => ["DELETE FROM za WHERE ka=?", [id]],
  },
  "a table for each conversation, and a list that names the tables": {
    statements: ({ said, talks }) => [
      "CREATE TABLE zb (ka INTEGER PRIMARY KEY, kb TEXT, kc TEXT)",
      "CREATE TABLE zc (ka INTEGER PRIMARY KEY, kb TEXT, kc TEXT)",
      ...talks.flatMap((talk): Statement[] => [
        ["INSERT INTO zb VALUES (?,?,?)", [talk.id, talk.title ?? talk.members[0].name, tableOf(talk)]],
        `CREATE TABLE ${tableOf(talk)} (ka INTEGER PRIMARY KEY, kb INTEGER, kc INTEGER, kd TEXT)`,
      ]),
      ...PEOPLE.map(({ id, name, address }): Statement => ["INSERT INTO zc VALUES (?,?,?)", [id, name, address]]),
      ...said.map(
        (one): Statement => [`INSERT INTO ${tableOf(one.talk)} VALUES (?,?,?,?)`, [one.id, one.sender?.id ?? 0, one.at, one.text]],
      ),
    ],
    erase: (one) => [`DELETE FROM ${tableOf(one.talk)} WHERE ka=?`, [one.id]],
  },
  "days as numbers of eight digits, and seconds since midnight": writtenOut(2, (at) => [
    Number(at.toISOString().slice(0, 10).replaceAll("-", "")),
    Math.floor((at.getTime() % DAY) / 1000),
  ]),
  "times as numbers of fourteen digits": writtenOut(1, (at) => [Number(at.toISOString().slice(0, 19).replace(/\D/g, ""))]),
  "months before days, and halves of the day": writtenOut(1, (at) => {
    const [hour, rest] = [at.getUTCHours(), at.toISOString().slice(13, 19)];
    return [`${at.getUTCMonth() + 1}/${at.getUTCDate()}/${at.getUTCFullYear()} ${hour % 12 || 12}${rest} ${hour < 12 ? "AM" : "PM"}`];
  }),
  "months by their names": writtenOut(1, (at) => [
    `${at.getUTCDate()} ${MONTHS[at.getUTCMonth()]} ${at.getUTCFullYear()}, ${at.toISOString().slice(11, 19)}`,
  ]),
};

/** What people said to each other: six of them alone, four groups. */
function told(random: () => number, count: number, isAlone: boolean): Told {
  const of = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];
  const talks: Talk[] = [
    ...PEOPLE.slice(0, 6).map((one, index) => ({ id: index + 1, title: null, group: false, members: [one] })),
    ...(isAlone ? [] : GROUPS).map((title, index) => ({
      id: index + 7,
      title,
      group: true,
      members: PEOPLE.slice(index * 2, index * 2 + 3),
    })),
  ];
  let moment = Date.UTC(2025, 10, 3, 8);
  const said = Array.from({ length: count }, (_, index): Said => {
    moment += 1000 + Math.floor(random() * DAY * 0.04);
    const talk = of(talks);
    const direction = random() < 0.45 ? "out" : "in";
    const text = Array.from({ length: 3 + Math.floor(random() * 11) }, () => of(WORDS)).join(" ");
    const sender: Said["sender"] = direction === "in" ? of(talk.members) : null;
    return {
      id: index + 1,
      at: moment,
      text: `${text}${of([".", "!", "?", ""])}`,
      direction,
      talk,
      sender,
      file: null,
      erased: random() < 0.12,
    };
  });
  return { talks, said };
}

/** A messenger of one of these shapes, filled and partly erased by the stock library. */
export async function otherMessenger({ statements, erase, isAlone = false }: Shape, count = 520): Promise<Omit<Messenger, "shape">> {
  const SQL = await initSqlJs();
  const random = seeded(77);
  const all = told(random, count, isAlone);
  const database = new SQL.Database();
  const run = (one: Statement) => (typeof one === "string" ? database.run(one) : database.run(one[0], [...one[1]]));
  for (const one of ["PRAGMA page_size=4096", "PRAGMA secure_delete=OFF", "BEGIN", ...statements(all, random), "COMMIT"]) run(one);
  for (const one of all.said) if (one.erased) run(erase(one));
  const bytes = database.export();
  database.close();
  return { ...all, bytes };
}
