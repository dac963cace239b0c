import { encode as messagePack } from "@msgpack/msgpack";
import { encode as cbor } from "cborg";
import { XMLBuilder } from "fast-xml-parser";
import type { Said } from "./messengers.ts";
import { isOut, type Shape, type Statement, talkUuid, uuid, writer } from "./other-messengers.ts";

/** Messengers whose rows hold a whole message each, written down in one of several open forms; and such as say little of their sides. */

const xml = new XMLBuilder({ ignoreAttributes: false, attributeNamePrefix: "@" });

/** A key, and all else in a value behind it. */
const packed = (write: (said: Said) => Uint8Array | string): Shape => ({
  statements: ({ said }) => [
    "CREATE TABLE za (ka TEXT PRIMARY KEY, kb)",
    ...said.map((one): Statement => ["INSERT INTO za VALUES (?,?)", [uuid(one.id), write(one)]]),
  ],
  erase: ({ id }) => ["DELETE FROM za WHERE ka=?", [uuid(id)]],
});
const written = (one: Said) => ({
  qa: one.at,
  qb: one.text,
  qc: { id: uuid(writer(one).id), n: writer(one).name },
  qd: isOut(one) === 1,
  qe: talkUuid(one.talk),
});
/** Each with somebody alone, by their address. */
const alone = (columns: string, values: (said: Said, random: () => number) => readonly (string | number | null)[]): Shape => ({
  isAlone: true,
  statements: ({ said }, random) => [
    `CREATE TABLE za (ka INTEGER PRIMARY KEY, ${columns})`,
    ...said.map((one): Statement => {
      const row = values(one, random);
      return [`INSERT INTO za VALUES (?${",?".repeat(row.length)})`, [one.id, ...row]];
    }),
  ],
  erase: ({ id }) => ["DELETE FROM za WHERE ka=?", [id]],
});
const other = ({ talk }: Said) => talk.members[0].address;

export const PACKED_SHAPES: Readonly<Record<string, Shape>> = {
  "messages in MessagePack": packed((one) => messagePack(written(one))),
  "messages in CBOR, with numbers for names": packed((one) => {
    const { qa, qb, qc, qd, qe } = written(one);
    return cbor(
      new Map<number, unknown>([
        [1, qa],
        [2, qb],
        [3, new Map(Object.entries(qc))],
        [4, qd],
        [5, qe],
      ]),
    );
  }),
  "messages in XML": packed((one) => {
    const { qa, qb, qc, qe } = written(one);
    return xml.build({ q: { "@a": String(qa), "@s": isOut(one) === 1 ? "o" : "i", "@c": qe, w: { "@i": qc.id, "#text": qc.n }, b: qb } });
  }),
  "messages as lists, each value in its place": packed((one) => {
    const { qa, qb, qc, qd, qe } = written(one);
    return JSON.stringify([qe, qa, qd, qc.id, qc.n, qb]);
  }),
  "the codes of the system's own messages, and nothing else": alone("kb TEXT, kc INTEGER, kd INTEGER, ke TEXT", (one, random) => [
    other(one),
    isOut(one) === 1 ? (random() < 0.1 ? 5 : 2) : 1,
    one.at,
    one.text,
  ]),
  "texts in parts, and beside the messages whom they are with: in groups who wrote": {
    statements: ({ said, talks }) => [
      "CREATE TABLE za (ka INTEGER PRIMARY KEY, kb INTEGER, kc INTEGER, kd INTEGER, ke TEXT)",
      "CREATE TABLE zb (ka INTEGER PRIMARY KEY, kb INTEGER, kc TEXT, kd TEXT)",
      "CREATE TABLE zc (ka INTEGER PRIMARY KEY, kb TEXT)",
      ...talks.map(({ id, title }): Statement => ["INSERT INTO zc VALUES (?,?)", [id, title]]),
      ...said.flatMap((one): Statement[] => [
        [
          "INSERT INTO za VALUES (?,?,?,?,?)",
          [one.id, one.talk.id, one.at, 1 + isOut(one), one.talk.group ? (one.sender?.address ?? null) : other(one)],
        ],
        ["INSERT INTO zb VALUES (?,?,?,?)", [one.id + 7000, one.id, "text/plain", one.text]],
      ]),
    ],
    erase: ({ id }) => `DELETE FROM zb WHERE kb=${id}; DELETE FROM za WHERE ka=${id}`,
  },
};
