import type { AttachmentValues, ConversationValues, MessageValues } from "../finds/record.ts";
import { type Gathered, isoOf, keyOf, type StoreRow, type StoreTable } from "./gathered.ts";
import { attachment, type Entry, entryOf, known, madeEntry, onceEach, type Store } from "./store.ts";

/** Telephony.TextBasedSmsColumns.MESSAGE_TYPE_* and Telephony.BaseMmsColumns.MESSAGE_BOX_*: the same numbers. */
const Box = { inbox: 1, draft: 3 } as const;
/** PduHeaders of the Android Open Source Project, after OMA-TS-MMS_ENC §7: FROM, TO, CC, BCC. */
const Role = { from: 137, to: [151, 130, 129] } as const;
/** What stands where the network is to put the own number (PduHeaders.FROM_INSERT_ADDRESS_TOKEN_STR). */
const OWN = "insert-address-token";

/** SMS, MMS and their threads (Android Open Source Project, Telephony: Sms, Mms, Mms.Part, Mms.Addr, Threads, CanonicalAddresses). */
export const TELEPHONY: Store = {
  name: "telephony",
  read(gathered) {
    const sms = gathered.table("sms", "address", "date", "type", "body");
    const pdu = gathered.table("pdu", "thread_id", "date", "msg_box");
    if (!sms && !pdu) return [];
    const threads = new Threads(gathered);
    const messages = [
      ...(sms?.rows.flatMap((row) => smsOf(gathered, sms, row, threads)) ?? []),
      ...(pdu?.rows.flatMap((row) => mmsOf(gathered, pdu, row, threads)) ?? []),
    ];
    const once = onceEach(messages, ({ values }) => {
      const { at, text, address, direction } = values as MessageValues;
      return at === undefined ? null : JSON.stringify([at, text, direction, address]);
    });
    return [...threads.entries(), ...once];
  },
};

function smsOf(gathered: Gathered, sms: StoreTable, row: StoreRow, threads: Threads): Entry[] {
  const at = isoOf(sms.number(row, "date"));
  const text = sms.text(row, "body");
  const type = sms.number(row, "type");
  if (at === undefined && text === undefined) return [];
  const address = sms.text(row, "address") || undefined;
  const values: MessageValues = {
    conversation: threads.idOf(sms.get(row, "thread_id"), address === undefined ? [] : [address], row),
    at,
    direction: type === undefined ? undefined : type === Box.inbox ? "in" : "out",
    address,
    subject: sms.text(row, "subject") || undefined,
    text: text ?? "",
    attachments: [],
    ...(type === Box.draft && { draft: true }),
  };
  return [entryOf(TELEPHONY.name, "message", gathered, [row], values)];
}

function mmsOf(gathered: Gathered, pdu: StoreTable, row: StoreRow, threads: Threads): Entry[] {
  const seconds = pdu.number(row, "date");
  const box = pdu.number(row, "msg_box");
  if (seconds === undefined && box === undefined) return [];
  const parts = partsOf(gathered, row);
  const addr = gathered.table("addr", "msg_id", "address", "type");
  const people = addr ? besides(addr.find("msg_id", row.row.rowid ?? undefined), row) : [];
  const addressed = (roles: readonly number[]) =>
    people.flatMap((one) => {
      const address = addr?.text(one, "address");
      return address && address !== OWN && roles.includes(addr?.number(one, "type") ?? 0) ? [address] : [];
    });
  const isIn = box === Box.inbox;
  const from = addressed([Role.from]);
  const to = [...new Set(addressed(Role.to))];
  const values: MessageValues = {
    conversation: threads.idOf(pdu.get(row, "thread_id"), isIn ? from : to, row),
    at: isoOf(seconds === undefined ? undefined : seconds * 1000),
    direction: box === undefined ? undefined : isIn ? "in" : "out",
    address: isIn ? from[0] : to.length === 1 ? to[0] : undefined,
    subject: pdu.text(row, "sub") || undefined,
    text: parts.text,
    attachments: parts.attachments,
    ...(box === Box.draft && { draft: true }),
  };
  return [entryOf(TELEPHONY.name, "message", gathered, [row, ...parts.rows, ...people], values)];
}

/** Of rows that a message is joined with: those that are there for one that is; of an erased one each once, however many copies are left. */
function besides(rows: readonly StoreRow[], message: StoreRow): StoreRow[] {
  if (message.isThere) return rows.filter(({ isThere }) => isThere);
  const seen = new Set<string>();
  return rows.filter((row) => {
    const key = JSON.stringify([String(row.row.rowid), ...row.values.map((value) => keyOf(value))]);
    return !seen.has(key) && seen.add(key);
  });
}

/** Text of a multimedia message: its parts of plain text, in their order; what only lays it out is no attachment. */
function partsOf(gathered: Gathered, message: StoreRow): { text: string; attachments: AttachmentValues[]; rows: StoreRow[] } {
  const part = gathered.table("part", "mid", "ct");
  if (!part || message.row.rowid === null) return { text: "", attachments: [], rows: [] };
  const rows = besides(part.find("mid", message.row.rowid), message);
  rows.sort((a, b) => (part.number(a, "seq") ?? 0) - (part.number(b, "seq") ?? 0) || Number(a.row.rowid ?? 0) - Number(b.row.rowid ?? 0));
  const texts: string[] = [];
  const attachments: AttachmentValues[] = [];
  for (const row of rows) {
    const type = part.text(row, "ct");
    if (type === "application/smil") continue;
    const text = part.text(row, "text");
    if (type === "text/plain" && text !== undefined) texts.push(text);
    else {
      const name = part.text(row, "name") || part.text(row, "fn") || part.text(row, "cl");
      attachments.push(attachment(name, type, part.text(row, "_data")));
    }
  }
  return { text: texts.join("\n"), attachments, rows };
}

/** Conversations by their thread, with whom they are: as the provider says, or else as their messages do. */
class Threads {
  readonly #gathered: Gathered;
  readonly #threads: StoreTable | null;
  readonly #canonical: StoreTable | null;
  readonly #met = new Map<string, { row: StoreRow | null; people: Set<string>; isThere: boolean }>();

  constructor(gathered: Gathered) {
    this.#gathered = gathered;
    this.#threads = gathered.table("threads", "recipient_ids");
    this.#canonical = gathered.table("canonical_addresses", "address");
    for (const row of this.#threads?.rows ?? []) {
      const key = keyOf(row.row.rowid ?? undefined);
      if (key === null || this.#met.has(key)) continue;
      const row_ = this.#threads?.first("_id", row.row.rowid ?? undefined) ?? row;
      this.#met.set(key, { row: row_, people: new Set(), isThere: row_.isThere });
    }
  }

  #id = (key: string) => `${this.#gathered.prefix}~thread~${key}`;

  /** Takes note of a message's thread and of who it was with. */
  idOf(thread: StoreRow["values"][number], people: readonly string[], message: StoreRow): string | undefined {
    const key = keyOf(thread);
    if (key === null) return undefined;
    let one = this.#met.get(key);
    if (!one) {
      one = { row: null, people: new Set(), isThere: false };
      this.#met.set(key, one);
    }
    if (message.isThere && one.row === null) one.isThere = true;
    for (const address of people) one.people.add(address);
    return this.#id(key);
  }

  #recipients(row: StoreRow): string[] {
    const ids = this.#threads?.text(row, "recipient_ids")?.split(" ") ?? [];
    return ids.flatMap((id) => {
      const one = this.#canonical?.first("_id", id);
      return (one && this.#canonical?.text(one, "address")) || [];
    });
  }

  entries(): Entry[] {
    return Array.from(this.#met, ([key, { row, people, isThere }]) => {
      const recipients = row ? this.#recipients(row) : [];
      const all = recipients.length > 0 ? recipients : [...people];
      const values: ConversationValues = known({ members: all.map((address) => ({ address })), group: all.length > 1 });
      const state = isThere ? "present" : "erased";
      const made = madeEntry(TELEPHONY.name, "conversation", this.#gathered, key, state, values);
      return { ...made, id: this.#id(key), rows: row ? this.#gathered.idsOf([row]) : [], evidence: row?.evidence ?? [] };
    });
  }
}
