import type { ContactValues, FoundRecord } from "../../finds/record.ts";

export type VcardVersion = "4.0" | "3.0";

/** Backslash, comma, semicolon and line breaks mean something of their own (RFC 6350 §3.4, RFC 2426 §5). */
const escaped = (text: string): string => text.replace(/[\\,;]/g, "\\$&").replace(/\r\n|\r|\n/g, "\\n");
/** What a parameter's value may hold: no quotes, no line breaks, no colons and semicolons but in quotes (RFC 6350 §3.3). */
const parameter = (text: string): string =>
  text
    .replace(/["\r\n]/g, "")
    .replace(/[^A-Za-z0-9-]/g, "-")
    .toLowerCase();

const encoder = new TextEncoder();
/** Bytes of a line without its end (RFC 6350 §3.2, RFC 5545 §3.1). */
const MOST = 75;

/** A line in pieces of 75 bytes at most, none of them cut within a character. Those that go on begin with a space. */
export function foldedLine(line: string): string {
  const lines: string[] = [];
  let now = "";
  let bytes = 0;
  for (const sign of line) {
    const size = encoder.encode(sign).length;
    if (bytes + size > MOST) {
      lines.push(now);
      now = " ";
      bytes = 1;
    }
    now += sign;
    bytes += size;
  }
  lines.push(now);
  return lines.join("\r\n");
}

/** Control characters have no place in a line (RFC 6350 §3.3). */
const written = (text: string): string => text.replace(/(?![\t\n\r])\p{Cc}/gu, "");

/** Kinds of numbers that both versions have in common (RFC 6350 §6.4.1, RFC 2426 §3.3.1); others are left out. */
const PHONE_TYPES: Readonly<Record<string, string>> = {
  home: "home",
  work: "work",
  mobile: "cell",
  "work fax": "fax",
  "home fax": "fax",
  pager: "pager",
  main: "voice",
};
const PLACE_TYPES: Readonly<Record<string, string>> = { home: "home", work: "work" };

/** A contact as a vCard: 4.0 (RFC 6350) or 3.0 (RFC 2426). */
export function vcardOf(contact: FoundRecord, version: VcardVersion): string {
  const values = contact.values as ContactValues;
  const { phones = [], emails = [], addresses = [], websites = [] } = values;
  const name = values.name ?? phones[0]?.number ?? emails[0]?.address ?? "";
  const typed = (type: string | undefined, known: Readonly<Record<string, string>>) => {
    const word = known[type ?? ""];
    return word ? `;TYPE=${parameter(word)}` : "";
  };
  const line = (head: string, value: string | undefined) => (value ? [foldedLine(written(`${head}:${value}`))] : []);
  // A semicolon parts nothing in a value that has no parts: 4.0 needs no mark before it (RFC 6350 §3.4), 3.0 does.
  const plain = (value: string) => (version === "4.0" ? escaped(value).replaceAll("\\;", ";") : escaped(value));
  const text = (head: string, value: string | undefined) => line(head, value && plain(value));
  const lines = [
    "BEGIN:VCARD",
    `VERSION:${version}`,
    ...line("FN", plain(name) || " "),
    ...line("N", [values.family, values.given ?? (values.family ? "" : name), "", "", ""].map((part) => escaped(part ?? "")).join(";")),
    ...phones.flatMap(({ number, type }) => text(`TEL${typed(type, PHONE_TYPES)}`, number)),
    ...emails.flatMap(({ address, type }) => text(`EMAIL${typed(type, PLACE_TYPES)}`, address)),
    ...addresses.flatMap(({ street, city, region, postcode, country }) =>
      line("ADR", ["", "", street, city, region, postcode, country].map((part) => escaped(part ?? "")).join(";")),
    ),
    // Its units would stand behind semicolons (RFC 6350 §6.6.4).
    ...line("ORG", values.organization && escaped(values.organization)),
    ...text("TITLE", values.title),
    ...text("NICKNAME", values.nickname),
    ...text("NOTE", values.note),
    ...line("BDAY", birthdayOf(values.birthday, version)),
    ...line(...photoLine(values.photo, version)),
    ...websites.flatMap((site) => line("URL", site.replace(/[\r\n]/g, ""))),
    "END:VCARD",
  ];
  return `${lines.join("\r\n")}\r\n`;
}

/** A picture: 4.0 has it as a data address, whose signs are not escaped (RFC 6350 §6.2.4, its example), 3.0 as base64 (RFC 2426 §3.1.4). */
function photoLine(photo: string | undefined, version: VcardVersion): [string, string | undefined] {
  const [, type, data] = /^data:image\/(jpeg|png);base64,([A-Za-z0-9+/]+=*)$/.exec(photo ?? "") ?? [];
  if (!data) return ["PHOTO", undefined];
  return version === "4.0" ? ["PHOTO", photo] : [`PHOTO;ENCODING=b;TYPE=${type.toUpperCase()}`, data];
}

/** A day: 4.0 has it without dashes, and may leave out the year (RFC 6350 §4.3.1); 3.0 with them. What is no day is left out. */
function birthdayOf(birthday: string | undefined, version: VcardVersion): string | undefined {
  const parts = /^(\d{4}|-)-?(\d\d)-?(\d\d)$/.exec(birthday ?? "");
  if (!parts) return undefined;
  const [, year, month, day] = parts;
  if (year === "-") return version === "4.0" ? `--${month}${day}` : undefined;
  return version === "4.0" ? `${year}${month}${day}` : `${year}-${month}-${day}`;
}
