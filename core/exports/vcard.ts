import { photoOf } from "../filetypes/small-picture.ts";
import type { ContactValues } from "../finds/record.ts";
import { columnsOf, components, type Entry, type Lacking } from "./components.ts";
import { type ContentLine, plainText, structured } from "./lines.ts";

/** Words of TYPE that say what a number or address is for; others ("pref", "voice", "internet") say something else. */
const USES = ["home", "work", "cell", "fax", "pager", "car", "other"];

const purposeOf = ({ parameters }: ContentLine): string | undefined =>
  parameters
    .get("TYPE")
    ?.map((one) => one.toLowerCase())
    .find((one) => USES.includes(one));

/** A day as YYYY-MM-DD where all of it is known (RFC 6350 §4.3.1: basic and extended forms), else as it stands. */
function dayOf(value: string): string {
  const [, year, month, day] = /^(\d{4})-?(\d\d)-?(\d\d)/.exec(value) ?? [];
  return day ? `${year}-${month}-${day}` : value;
}

/** A picture that stands in the card: a data address (RFC 6350 §6.2.4), or base64 by the name of ENCODING (RFC 2426 §3.1.4, vCard 2.1). */
function pictureIn({ value, parameters }: ContentLine): string | undefined {
  const isBinary = parameters.get("ENCODING")?.some((one) => /^(?:b|base64)$/i.test(one)) ?? false;
  const text = isBinary ? value : /^data:[^,]{0,100};base64\\?,(.*)$/is.exec(value)?.[1];
  if (text === undefined || text.length > MOST_LETTERS) return undefined;
  try {
    return photoOf(Uint8Array.from(atob(text.replace(/\s/g, "")), (letter) => letter.charCodeAt(0)));
  } catch {
    // It is no base64: the rest of the card is read all the same.
    return undefined;
  }
}
/** Letters of a picture that is read at all. */
const MOST_LETTERS = 100_000;

const given = (text: string): string | undefined => text.trim() || undefined;

function contactOf(lines: readonly ContentLine[]): ContactValues {
  const values: ContactValues = {};
  for (const line of lines) {
    const text = plainText(line.value);
    switch (line.name) {
      case "FN":
        values.name ??= given(text);
        break;
      case "N": {
        const [family, first] = structured(line.value);
        values.family ??= given(family ?? "");
        values.given ??= given(first ?? "");
        break;
      }
      case "TEL":
        // RFC 6350 §6.4.1: a URI in version 4.
        (values.phones ??= []).push({ number: text.replace(/^tel:/i, ""), type: purposeOf(line) });
        break;
      case "EMAIL":
        (values.emails ??= []).push({ address: text.replace(/^mailto:/i, ""), type: purposeOf(line) });
        break;
      case "ADR": {
        const [box, extended, street, city, region, postcode, country] = structured(line.value);
        const lineOne = [box, extended, street].filter(Boolean).join(", ");
        (values.addresses ??= []).push({
          street: given(lineOne),
          city: given(city ?? ""),
          region: given(region ?? ""),
          postcode: given(postcode ?? ""),
          country: given(country ?? ""),
        });
        break;
      }
      case "ORG":
        values.organization ??= given(structured(line.value).filter(Boolean).join(", "));
        break;
      case "TITLE":
        values.title ??= given(text);
        break;
      case "NOTE":
        values.note ??= given(text);
        break;
      case "PHOTO":
        values.photo ??= pictureIn(line);
        break;
      case "BDAY":
        values.birthday ??= given(dayOf(text));
        break;
    }
  }
  if (!values.name) values.name = given([values.given, values.family].filter(Boolean).join(" "));
  return values;
}

/** People of an address book: vCard 2.1 (versit 1996), 3.0 (RFC 2426) and 4.0 (RFC 6350). */
export function* readVcards(bytes: Uint8Array, lacking: Lacking): Generator<Entry<ContactValues>> {
  for (const { lines, at, whole } of components(bytes, ["VCARD"]))
    yield { values: contactOf(lines), columns: columnsOf(lines, lacking), at, whole };
}
