import { layout, u32, u64 } from "../../../../core/bytes/layout.ts";
import { HTML, textOfMarkup } from "../markup.ts";
import type { Stream } from "./streams.ts";

/** [MS-OXMSG] §2.4.2.1: entries of the stream of properties stand behind a head of so many bytes. */
const HEAD = 32;
const Entry = layout(16, { tag: u32(0), flags: u32(4), value: u64(8) });
/** [MS-OXPROPS] §2: numbers of properties. */
const Property = {
  subject: "0037",
  sender: "0C1A",
  senderAddress: "0C1F",
  senderSmtp: "5D01",
  to: "0E04",
  copyTo: "0E03",
  body: "1000",
  markup: "1013",
} as const;
const SENT = 0x0039_0040;
const RECEIVED = 0x0e06_0040;
const LONG_NAME = "3707";
const SHORT_NAME = "3704";
/** [MS-OXCDATA] §2.11.1: kinds of values: text in two bytes a letter, in one, bytes. */
const WIDE = "001F";
const NARROW = "001E";
const BYTES = "0102";
/** [MS-DTYP] §2.3.3 FILETIME: hundreds of nanoseconds since 1601. */
const EPOCH_1601 = 11_644_473_600_000;

/** An e-mail of the older form: who, when, about what, its text, and what is attached ([MS-OXMSG] §2). */
export function textOfMailItem(streams: readonly Stream[]): string {
  const value = (number: string, within = ""): string => {
    const at = (kind: string) => streams.find(({ path }) => path.toUpperCase() === `${within}/__SUBSTG1.0_${number}${kind}`)?.bytes;
    const wide = at(WIDE);
    if (wide) return new TextDecoder("utf-16le").decode(wide);
    const narrow = at(NARROW) ?? at(BYTES);
    return narrow ? new TextDecoder("windows-1252").decode(narrow) : "";
  };
  const attachments = new Set(streams.flatMap(({ path }) => /^\/__attach_version1\.0_#[\dA-F]{8}/i.exec(path)?.[0].toUpperCase() ?? []));
  const name = value(Property.sender);
  const address = value(Property.senderSmtp) || value(Property.senderAddress);
  const heads: [string, string][] = [
    ["From", name && address && name !== address ? `${name} <${address}>` : name || address],
    ["To", value(Property.to)],
    ["Copy to", value(Property.copyTo)],
    ["Date", sentAt(streams) ?? ""],
    ["Subject", value(Property.subject)],
    ["Attached", [...attachments].map((one) => value(LONG_NAME, one) || value(SHORT_NAME, one) || "a file without a name").join(", ")],
  ];
  const head = heads.flatMap(([label, words]) => (words ? [`${label}: ${words.replaceAll("\0", "")}`] : [])).join("\n");
  return `${head}\n\n${value(Property.body) || textOfMarkup(value(Property.markup), HTML)}`.replaceAll("\0", "").trim();
}

/** When it was sent, else when it came, by the stream of its properties. Null: it does not say. */
function sentAt(streams: readonly Stream[]): string | null {
  const bytes = streams.find(({ path }) => path === "/__properties_version1.0")?.bytes ?? new Uint8Array();
  const times = new Map<number, number>();
  for (let at = HEAD; at + Entry.size <= bytes.length; at += Entry.size) times.set(Entry.tag(bytes, at), Entry.value(bytes, at));
  const told = times.get(SENT) ?? times.get(RECEIVED);
  const moment = told === undefined ? Number.NaN : told / 10_000 - EPOCH_1601;
  return Math.abs(moment) < 8.64e15 ? new Date(moment).toISOString() : null;
}
