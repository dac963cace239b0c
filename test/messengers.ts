import { deflateSync } from "node:zlib";
import initSqlJs, { type SqlValue } from "sql.js";

/** Messengers that nobody ever wrote: of a random shape, with nonsense for names, and the truth of what is in them. Same seed, same messenger. */

const SQL = await initSqlJs();

/** Chance that is the same every time: a linear congruential generator (Numerical Recipes §7.1). */
export class Dice {
  #seed: number;
  constructor(seed: number) {
    this.#seed = (Math.imul(seed + 1, 0x9e3779b1) ^ 0x5bd1e995) >>> 0;
    for (let turn = 0; turn < 8; turn++) this.below(2);
  }
  /** 0 … 1 */
  roll(): number {
    this.#seed = (Math.imul(this.#seed, 1_664_525) + 1_013_904_223) >>> 0;
    return this.#seed / 2 ** 32;
  }
  below(most: number): number {
    return Math.floor(this.roll() * most);
  }
  of<const T>(list: readonly T[]): T {
    return list[this.below(list.length)];
  }
  is(chance: number): boolean {
    return this.roll() < chance;
  }
}

interface Someone {
  readonly id: number;
  readonly name: string;
  readonly address: string;
}
export interface Talk {
  readonly id: number;
  readonly title: string | null;
  readonly group: boolean;
  readonly members: readonly Someone[];
}
export interface Said {
  readonly id: number;
  readonly at: number;
  readonly text: string;
  readonly direction: "in" | "out" | "system";
  readonly talk: Talk;
  readonly sender: Someone | null;
  readonly file: string | null;
  erased: boolean;
}

const FIRST = [
  "Ansa",
  "Brendel",
  "Corvin",
  "Delphine",
  "Эмма",
  "Фёкла",
  "Гордей",
  "Hedwig",
  "Ignác",
  "Jorun",
  "سلمى",
  "نجيب",
  "Lorcan",
  "Mirela",
  "Nedda",
  "Odran",
];
const LAST = ["Vask", "Tarnow", "Ryle", "Ostrander", "Лисицын", "Пряхин", "Quist", "Bellamy", "الخياط", "Zorn", "Achter", "Moll"];
const HAN = ["柳青", "石磊", "木生", "云裳", "阿绣"];
const WORDS: readonly (readonly string[])[] = [
  "the wagon stage lamp rope tonight rehearsal moved bring we late tent ticket money please tomorrow rain show found lost where are you going with her hat".split(
    " ",
  ),
  "der Vorhang klemmt heute wieder bitte bring die Lampe mit wir fahren spät los Kasse stimmt Probe um morgen Regen".split(" "),
  "зрителей сегодня мало выезжаем утром не забудь фонарь верёвка порвалась билеты проданы завтра дождь".split(" "),
  "اليوم العرض في المساء لا تنس الفانوس أين المفتاح غدا المطر المسرح".split(" "),
];
const HANZI = "今晚开场别忘了带灯笼收据已付清木偶的线断明天出发去雨幕布缝好吗";

function sentence(dice: Dice): string {
  if (dice.is(0.06)) return dice.of(["ok", "да", "ja", "👍", "?", "🎭🎭"]);
  if (dice.is(0.15)) return Array.from({ length: 6 + dice.below(14) }, () => HANZI[dice.below(HANZI.length)]).join("");
  const words = dice.of(WORDS);
  const count = 3 + dice.below(dice.is(0.1) ? 60 : 12);
  const text = Array.from({ length: count }, () => dice.of(words)).join(" ");
  return `${text[0].toUpperCase()}${text.slice(1)}${dice.is(0.3) ? ` ${dice.below(900)}` : ""}${dice.of([".", "?", "!", ""])}`;
}

function people(dice: Dice, address: Shape["address"]): Someone[] {
  return Array.from({ length: 14 + dice.below(20) }, (_, id) => {
    const name = dice.is(0.15) ? `${dice.of(["戏", "幕", "偶"])}${dice.of(HAN)}` : `${dice.of(FIRST)} ${dice.of(LAST)}`;
    const number = String(7_700_900_000 + id * 37 + dice.below(30));
    const said = {
      number: `+44${number}`,
      mail: `p${number}@stage.example`,
      handle: `${dice.of(["ansa", "bren", "corv", "fox", "lamp"])}_${number.slice(4)}`,
      code: `u-${(Number(number) * 7919).toString(16)}`,
    };
    return { id: id + 1, name: `${name}${id > 12 ? ` ${dice.of(["Jr", "Senior", "Ross", "Linde", "Eck"])}` : ""}`, address: said[address] };
  });
}

/** What differs from one messenger to the next. */
export interface Shape {
  readonly time:
    | "s"
    | "ms"
    | "us"
    | "s2001"
    | "100ns1601"
    | "s1904"
    | "iso"
    | "day first"
    | "digits"
    | "split"
    | "split text"
    | "julian"
    | "ticks";
  readonly direction: "flag" | "flag turned" | "codes" | "owner" | "pair" | "empty" | "words" | "bit" | "alone";
  readonly talk: "number" | "code" | "address" | "table" | "account";
  readonly text: "column" | "bytes" | "json" | "fields" | "packed" | "table" | "prefixed" | "utf16" | "base64" | "index";
  readonly address: "number" | "mail" | "handle" | "code";
  readonly sender: "id" | "address" | "name";
  readonly files: "columns" | "table" | "json" | "none";
  readonly system: boolean;
  readonly receipts: boolean;
  readonly log: boolean;
  readonly encoding: "UTF-8" | "UTF-16le";
  /** Tables of people and of conversations may be lost, or elsewhere. */
  readonly people: boolean;
  readonly rooms: boolean;
  readonly groups: boolean;
  readonly count: number;
}

export function shapeOf(dice: Dice): Shape {
  const direction = dice.of(["flag", "flag turned", "codes", "owner", "pair", "empty", "words", "bit", "alone", "flag", "owner"]);
  const talk =
    direction === "pair" || direction === "alone" ? "address" : dice.of(["number", "code", "address", "table", "account", "number"]);
  return {
    time: dice.of([
      "s",
      "ms",
      "us",
      "s2001",
      "100ns1601",
      "s1904",
      "iso",
      "day first",
      "digits",
      "split",
      "split text",
      "julian",
      "ticks",
      "ms",
      "s",
    ]),
    direction,
    talk,
    text: dice.of(["column", "bytes", "json", "fields", "packed", "table", "prefixed", "utf16", "column", "base64", "index"]),
    address: dice.of(["number", "mail", "handle"]),
    sender: direction === "pair" ? "address" : dice.of(["id", "address", "name"]),
    files: dice.of(["columns", "table", "json", "none"]),
    system: dice.is(0.6) && direction !== "empty",
    receipts: dice.is(0.5),
    log: dice.is(0.4),
    encoding: dice.is(0.25) ? "UTF-16le" : "UTF-8",
    people: dice.is(0.85),
    rooms: dice.is(0.85),
    groups: dice.is(0.8),
    count: dice.of([90, 200, 500, 900]),
  };
}

export interface Messenger {
  readonly shape: Shape;
  readonly said: readonly Said[];
  readonly talks: readonly Talk[];
  readonly bytes: Uint8Array;
}

const DAY = 86_400_000;
const pad = (number: number, length = 2) => String(number).padStart(length, "0");

function stored(at: number, time: Shape["time"]): SqlValue[] {
  const date = new Date(at);
  const iso = date.toISOString();
  switch (time) {
    case "s":
      return [Math.floor(at / 1000)];
    case "ms":
      return [at];
    case "us":
      return [at * 1000];
    case "s2001":
      return [(at - Date.UTC(2001, 0, 1)) / 1000];
    case "100ns1601":
      return [(at - Date.UTC(1601, 0, 1)) * 10_000];
    case "s1904":
      return [Math.floor((at - Date.UTC(1904, 0, 1)) / 1000)];
    case "iso":
      return [iso];
    case "day first":
      return [`${pad(date.getUTCDate())}.${pad(date.getUTCMonth() + 1)}.${date.getUTCFullYear()} ${iso.slice(11, 19)}`];
    case "digits":
      return [String(at)];
    case "split":
      return [Math.floor(at / DAY), Math.floor((at % DAY) / 1000)];
    case "split text":
      return [iso.slice(0, 10), iso.slice(11, 19)];
    case "julian":
      return [at / DAY + 2_440_587.5];
    case "ticks":
      return [(at - Date.UTC(2001, 0, 1)) * 10_000 + 631_139_040_000_000_000];
  }
}

function varint(value: number): number[] {
  const bytes: number[] = [];
  for (let rest = value; ; rest = Math.floor(rest / 128)) {
    if (rest < 128) return [...bytes, rest];
    bytes.push((rest % 128) | 128);
  }
}

function packedText(text: string, { text: how, files }: Shape, file: string | null, kind: number): SqlValue {
  const bytes = new TextEncoder().encode(text);
  switch (how) {
    case "bytes":
      return bytes;
    case "json":
      return JSON.stringify({ v: 3, q: { ww: text }, ...(files === "json" && file && { ff: [{ pp: file, tt: "image/jpeg" }] }) });
    case "fields":
      return new Uint8Array([8, kind, 0x22, ...varint(bytes.length), ...bytes]);
    case "packed":
      return new Uint8Array(deflateSync(bytes));
    case "prefixed":
      return new Uint8Array([1, kind, 0, bytes.length & 255, bytes.length >> 8, ...bytes, 7, 7]);
    case "base64":
      return text === "" ? "" : Buffer.from(bytes).toString("base64");
    case "utf16":
      return new Uint8Array(Buffer.from(text, "utf16le"));
    default:
      return text;
  }
}

/** A shape without what cannot be together: a list in a text that is none, rows beside many tables that name only the row. */
function possible(shape: Shape): Shape {
  const family = shape.talk === "table";
  const beside = shape.text === "table" || shape.text === "index";
  const text = family && beside ? "column" : shape.text;
  const files = shape.files === "json" && text !== "json" ? "table" : shape.files;
  return { ...shape, text, files: family && files === "table" ? "columns" : files, receipts: shape.receipts && !family };
}

/** A messenger of a shape, filled and partly erased. `names`: what its tables and columns are called, by what they mean; nonsense without. */
export function messenger(seed: number, wanted?: Partial<Shape>): Messenger {
  const dice = new Dice(seed);
  const drawn = { ...shapeOf(dice), ...wanted };
  const shape = possible(drawn);
  const everybody = people(dice, shape.address);
  const [me, ...others] = everybody;
  const talks = talksOf(dice, others, shape);
  const said = conversation(dice, talks, shape);
  const db = new SQL.Database();
  const taken = new Set<string>();
  const name = () => {
    for (;;) {
      const one = `${dice.of(["zq", "wub", "kri", "ploo", "vant", "osk", "thr"])}${dice.of(["a", "ek", "im", "or", "un"])}${dice.below(90)}`;
      if (!taken.has(one)) {
        taken.add(one);
        return one;
      }
    }
  };
  db.run(`PRAGMA encoding='${shape.encoding}'`);
  db.run("PRAGMA secure_delete=OFF");
  const [who, rooms, seats] = [name(), name(), name()];
  db.run(`CREATE TABLE ${who} (${name()} INTEGER PRIMARY KEY, ${name()} TEXT, ${name()} TEXT, ${name()} INTEGER)`);
  for (const one of everybody)
    if (shape.people && (one !== me || shape.direction === "owner"))
      db.run(`INSERT INTO ${who} VALUES (?,?,?,?)`, [one.id, one.name, one.address, 1_600_000_000 + one.id]);
  const talkKey = (talk: Talk): SqlValue =>
    shape.talk === "code"
      ? `rm:${(talk.id * 48_271).toString(36)}zz${talk.id}`
      : shape.talk === "address"
        ? talk.group
          ? `grp-${talk.id * 77}@halls.example`
          : talk.members[0].address
        : talk.id;
  db.run(
    `CREATE TABLE ${rooms} (${name()} ${shape.talk === "code" || shape.talk === "address" ? "TEXT" : "INTEGER"} PRIMARY KEY, ${name()} TEXT, ${name()} INTEGER, ${name()} INTEGER)`,
  );
  for (const talk of talks)
    if (shape.rooms && (shape.talk !== "address" || talk.group))
      db.run(`INSERT INTO ${rooms} VALUES (?,?,?,?)`, [talkKey(talk), talk.title, Number(talk.group), 1_600_000_000_000 + talk.id]);
  db.run(`CREATE TABLE ${seats} (${name()}, ${name()})`);
  for (const talk of talks)
    for (const one of talk.members)
      if (shape.talk !== "address" || talk.group)
        db.run(`INSERT INTO ${seats} VALUES (?,?)`, [talkKey(talk), shape.sender === "id" ? one.id : one.address]);
  if (shape.direction === "pair" || shape.direction === "owner") {
    const own = name();
    db.run(`CREATE TABLE ${own} (${name()} TEXT, ${name()} TEXT)`);
    db.run(`INSERT INTO ${own} VALUES (?,?)`, [me.address, "5.1"]);
  }
  fill(db, dice, shape, said, me, name, talkKey);
  if (shape.log) {
    const log = name();
    db.run(`CREATE TABLE ${log} (${name()} INTEGER PRIMARY KEY, ${name()} INTEGER, ${name()} TEXT, ${name()} TEXT)`);
    for (let line = 0; line < said.length * 1.3; line++)
      db.run(`INSERT INTO ${log} (${taken.size > 0 ? "rowid" : "rowid"}) VALUES (?)`, [line + 1]);
    const [, at, level, words] = [...db.exec(`PRAGMA table_info(${log})`)[0].values.map((row) => String(row[1]))];
    db.run(
      `UPDATE ${log} SET ${at} = 1700000000000 + rowid * 91000, ${level} = CASE rowid % 3 WHEN 0 THEN 'warn' ELSE 'info' END, ${words} = 'queue emptied, ' || (rowid * 7 % 900) || ' left'`,
    );
  }
  const bytes = db.export();
  db.close();
  return { shape, said, talks, bytes };
}

function talksOf(dice: Dice, others: readonly Someone[], shape: Shape): Talk[] {
  const pairs = others.slice(0, 10 + dice.below(8));
  const talks: Talk[] = pairs.map((one, index) => ({ id: index * 3 + 2, title: null, group: false, members: [one] }));
  const groups = shape.groups && shape.direction !== "alone" ? 3 + dice.below(4) : 0;
  for (let index = 0; index < groups; index++) {
    const members = others.filter(() => dice.is(0.35)).slice(0, 8);
    if (members.length < 2) members.push(...others.slice(0, 2));
    talks.push({
      id: (pairs.length + index) * 3 + 2,
      title: `${dice.of(["Lantern", "Button", "Copper", "Barrow"])} ${dice.of(["troupe", "yard", "choir", "works"])} ${index}`,
      group: true,
      members,
    });
  }
  return talks;
}

function conversation(dice: Dice, talks: readonly Talk[], shape: Shape): Said[] {
  const said: Said[] = [];
  let at = Date.UTC(2023, 2, 4) + dice.below(300) * DAY;
  const count = shape.count + dice.below(shape.count);
  const weights = talks.map(() => 0.2 + dice.roll() ** 2);
  for (let id = 1; id <= count; id++) {
    at += 20_000 + dice.below(dice.is(0.2) ? 4 * 3_600_000 : 600_000);
    let pick = dice.roll() * weights.reduce((sum, one) => sum + one, 0);
    const talk =
      talks[
        Math.max(
          0,
          weights.findIndex((one) => (pick -= one) < 0),
        )
      ];
    const notice = shape.system && talk.group && dice.is(0.05);
    const out = !notice && dice.is(0.46);
    const sender = notice || out ? null : dice.of(talk.members);
    const file =
      !notice && shape.files !== "none" && dice.is(0.12) ? `media/${(at % 997).toString(16)}/${(at * 31).toString(16)}.jpg` : null;
    const text = notice
      ? `${dice.of(talk.members).name} ${dice.of(["left", "joined", "changed the title"])}`
      : file && dice.is(0.6)
        ? ""
        : sentence(dice);
    // What is kept to the second is told to the second.
    const moment = ["s", "s1904", "day first", "split", "split text"].includes(shape.time) ? Math.floor(at / 1000) * 1000 : at;
    said.push({ id, at: moment, text, direction: notice ? "system" : out ? "out" : "in", talk, sender, file, erased: false });
  }
  return said;
}

const KIND = { text: 0, file: 3, notice: 9 } as const;
const kindOf = ({ direction, file }: Said): number => (direction === "system" ? KIND.notice : file ? KIND.file : KIND.text);

function fill(
  db: InstanceType<typeof SQL.Database>,
  dice: Dice,
  shape: Shape,
  said: readonly Said[],
  me: Someone,
  name: () => string,
  talkKey: (talk: Talk) => SqlValue,
): void {
  const idOf = (one: Someone): SqlValue => (shape.sender === "id" ? one.id : shape.sender === "name" ? one.name : one.address);
  const senderOf = ({ direction, sender }: Said): SqlValue =>
    sender ? idOf(sender) : direction === "out" && shape.direction === "owner" ? idOf(me) : null;
  const columns: { type: string; of: (one: Said) => SqlValue }[] = [];
  const family = shape.talk === "table";
  if (!family && shape.direction !== "pair")
    columns.push({ type: typeof talkKey(said[0].talk) === "number" ? "INTEGER" : "TEXT", of: ({ talk }) => talkKey(talk) });
  if (shape.talk === "account") columns.push({ type: "INTEGER", of: ({ talk }) => (talk.id % 5 === 0 ? 2 : 1) });
  if (shape.direction === "pair") {
    columns.push({ type: "TEXT", of: ({ direction, sender }) => (direction === "out" ? me.address : (sender?.address ?? "")) });
    columns.push({
      type: "TEXT",
      of: ({ direction, talk }) => (talk.group ? talkKey(talk) : direction === "out" ? talk.members[0].address : me.address),
    });
  } else if (shape.direction !== "alone") columns.push({ type: "", of: senderOf });
  // As the telephony providers have it: of what went out there are more states.
  if (shape.direction === "alone")
    columns.push(
      { type: "INTEGER", of: ({ direction }) => (direction === "out" ? 1 : 0) },
      { type: "INTEGER", of: ({ direction, id }) => (direction === "out" ? id % 4 : 0) },
    );
  if (shape.direction === "bit")
    columns.push({
      type: "INTEGER",
      of: ({ direction, id }) => (direction === "out" ? 4 : 0) + (id % 3 === 0 ? 1 : 0) + (id % 5 === 0 ? 16 : 0) + 32,
    });
  if (shape.direction === "flag") columns.push({ type: "INTEGER NOT NULL", of: ({ direction }) => (direction === "out" ? 1 : 0) });
  if (shape.direction === "flag turned") columns.push({ type: "INTEGER NOT NULL", of: ({ direction }) => (direction === "out" ? 0 : 1) });
  if (shape.direction === "codes")
    columns.push({
      type: "INTEGER",
      of: ({ direction, id }) => (direction === "in" ? 10 + (id % 2) : direction === "out" ? 20 + (id % 3) : 40),
    });
  if (shape.direction === "words")
    columns.push({ type: "TEXT", of: ({ direction }) => (direction === "out" ? "vv" : direction === "in" ? "kk" : "mm") });
  const parts = stored(said[0].at, shape.time).length;
  for (let part = 0; part < parts; part++)
    columns.push({ type: shape.time === "julian" ? "REAL" : "", of: ({ at }) => stored(at, shape.time)[part] });
  // When it was read: later, and not for all.
  columns.push({ type: "", of: ({ at, id }) => (id % 3 === 0 ? null : (stored(at + 90_000, shape.time)[0] as SqlValue)) });
  const beside = shape.text === "table" || shape.text === "index";
  if (!beside)
    columns.push({
      type: "",
      of: (one) => (shape.text === "column" && one.text === "" ? null : packedText(one.text, shape, one.file, kindOf(one))),
    });
  columns.push({ type: "INTEGER", of: kindOf });
  columns.push({ type: "INTEGER", of: ({ id }) => (id > 20 && id % 11 === 0 ? id - (id % 7) - 1 : null) });
  if (shape.files === "columns")
    columns.push({ type: "TEXT", of: ({ file }) => file }, { type: "TEXT", of: ({ file }) => (file ? "image/jpeg" : null) });
  const order = [...columns.keys()].sort(() => dice.roll() - 0.5);
  const shuffledColumns = order.map((at) => columns[at]);
  const names = shuffledColumns.map(() => name());
  const key = name();
  const base = name();
  const made = new Map<string, string>();
  const tableOf = ({ talk }: Said): string => {
    const table = family ? `${base}_${pad(talk.id, 4)}` : base;
    if (!made.has(table)) {
      db.run(
        `CREATE TABLE ${table} (${key} INTEGER PRIMARY KEY AUTOINCREMENT, ${shuffledColumns.map(({ type }, at) => `${names[at]} ${type}`).join(", ")})`,
      );
      made.set(table, table);
    }
    return table;
  };
  const [words, files, receipts] = [name(), name(), name()];
  if (shape.text === "index") db.run(`CREATE VIRTUAL TABLE ${words} USING fts3(${name()})`);
  else if (beside) db.run(`CREATE TABLE ${words} (${name()} INTEGER PRIMARY KEY, ${name()} TEXT, ${name()} TEXT)`);
  if (shape.files === "table")
    db.run(`CREATE TABLE ${files} (${name()} INTEGER PRIMARY KEY, ${name()} INTEGER NOT NULL, ${name()} TEXT, ${name()} TEXT)`);
  if (shape.receipts) db.run(`CREATE TABLE ${receipts} (${name()} INTEGER, ${name()} INTEGER, ${name()} INTEGER)`);
  if (shape.talk === "account") {
    const accounts = name();
    db.run(`CREATE TABLE ${accounts} (${name()} INTEGER PRIMARY KEY, ${name()} TEXT)`);
    db.run(`INSERT INTO ${accounts} VALUES (1, 'stage_one_441'), (2, 'stage_two_908')`);
  }
  const marks = shuffledColumns.map(() => "?").join(",");
  const rowids = new Map<Said, { table: string; rowid: number }>();
  for (const one of said) {
    const table = tableOf(one);
    if (family)
      db.run(
        `INSERT INTO ${table} (${names.join(",")}) VALUES (${marks})`,
        shuffledColumns.map((column) => column.of(one)),
      );
    else db.run(`INSERT INTO ${table} VALUES (?,${marks})`, [one.id, ...shuffledColumns.map((column) => column.of(one))]);
    const rowid = Number(db.exec("SELECT last_insert_rowid()")[0].values[0][0]);
    rowids.set(one, { table, rowid });
    if (shape.text === "index" && one.text)
      db.run(`INSERT INTO ${words} (docid, ${String(db.exec(`PRAGMA table_info(${words})`)[0].values[0][1])}) VALUES (?,?)`, [
        rowid,
        one.text,
      ]);
    else if (beside && one.text) db.run(`INSERT INTO ${words} VALUES (?,?,?)`, [rowid, one.text, dice.of(["de", "en", null])]);
    if (shape.files === "table" && one.file) db.run(`INSERT INTO ${files} VALUES (?,?,?,?)`, [null, rowid, one.file, "image/jpeg"]);
    if (shape.receipts)
      for (let who = 0; who < 1 + (one.id % 2); who++)
        db.run(`INSERT INTO ${receipts} VALUES (?,?,?)`, [rowid, 1 + (one.id % 9), one.at + 1000 * who]);
  }
  for (const one of said) {
    if (!dice.is(0.12)) continue;
    const place = rowids.get(one);
    if (!place) continue;
    db.run(`DELETE FROM ${place.table} WHERE rowid = ?`, [place.rowid]);
    if (beside) db.run(`DELETE FROM ${words} WHERE rowid = ?`, [place.rowid]);
    one.erased = true;
  }
}
