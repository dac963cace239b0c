import { utils, write } from "cfb";

const WIDE = "001F";

/** An e-mail as a compound file ([MS-OXMSG] §2): properties by their number, names of what is attached, when it was sent. */
export function mailItem(texts: Readonly<Record<string, string>>, attached: readonly string[], sent: Date): Uint8Array {
  const file = utils.cfb_new();
  const put = (path: string, bytes: Uint8Array) => utils.cfb_add(file, path, [...bytes]);
  const wide = (text: string) => new Uint8Array(Buffer.from(text, "utf16le"));
  const properties = new DataView(new ArrayBuffer(32 + 16));
  // PidTagClientSubmitTime, a FILETIME.
  properties.setUint32(32, 0x0039_0040, true);
  properties.setUint32(36, 6, true);
  properties.setBigUint64(40, (BigInt(sent.getTime()) + 11_644_473_600_000n) * 10_000n, true);
  put("/__properties_version1.0", new Uint8Array(properties.buffer));
  for (const [number, text] of Object.entries(texts)) put(`/__substg1.0_${number}${WIDE}`, wide(text));
  for (const [index, name] of attached.entries())
    put(`/__attach_version1.0_#${index.toString(16).padStart(8, "0").toUpperCase()}/__substg1.0_3707${WIDE}`, wide(name));
  return Uint8Array.from(write(file, { type: "array" }) as unknown as number[]);
}
