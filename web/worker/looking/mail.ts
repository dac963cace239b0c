import PostalMime, { type Address } from "postal-mime";
import { HTML, textOfMarkup } from "./markup.ts";

const people = (list: readonly (Address | undefined)[] | undefined): string =>
  (list ?? [])
    .flatMap((one) => (one ? [one.name && one.address ? `${one.name} <${one.address}>` : one.name || (one.address ?? "")] : []))
    .join(", ");

/** An e-mail (RFC 5322, MIME by RFC 2045): who, when, about what, its text, and what is attached. Its own markup is only read. */
export async function textOfMail(bytes: Uint8Array): Promise<string> {
  const mail = await PostalMime.parse(bytes);
  const heads: [string, string | undefined][] = [
    ["From", people([mail.from])],
    ["To", people(mail.to)],
    ["Copy to", people(mail.cc)],
    ["Date", mail.date],
    ["Subject", mail.subject],
    ["Attached", mail.attachments.map(({ filename, mimeType }) => filename ?? mimeType).join(", ")],
  ];
  const head = heads.flatMap(([name, value]) => (value ? [`${name}: ${value}`] : [])).join("\n");
  return `${head}\n\n${mail.text ?? textOfMarkup(mail.html ?? "", HTML)}`.trim();
}
