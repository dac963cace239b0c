/** A practice phone with a crowded address book, in a process of its own: prints its port. */
import { serveAdb } from "../standins/adb/adbd.ts";
import { bringIn } from "../standins/hands.ts";
import { practicePhone } from "../standins/kit.ts";
import { CONTACTS, MESSAGES } from "./people-counts.ts";

const START = Date.UTC(2026, 0, 1);
const blank = Object.fromEntries(Array.from({ length: 14 }, (_, index) => [`data${index + 2}`, null]));
const name = (number: number) => `Guest ${number} of the wagon`;
const tel = (number: number) => `+44770${String(9_000_000 + number).padStart(7, "0")}`;
const contacts = "content://com.android.contacts";
const all = <T>(count: number, make: (number: number) => T): T[] => Array.from({ length: count }, (_, index) => make(index + 1));

const phone = await practicePhone("siskin-healthy", true);
phone.people = {
  [`${contacts}/data`]: all(CONTACTS, (id) => id).flatMap((id) =>
    (["name", "phone_v2"] as const).map((kind, part) => ({
      _id: 2 * id + part,
      raw_contact_id: id,
      contact_id: id,
      mimetype: `vnd.android.cursor.item/${kind}`,
      in_visible_group: id % 9 === 0 ? 0 : 1,
      ...blank,
      display_name: name(id),
      data1: part === 0 ? name(id) : tel(id),
    })),
  ),
  [`${contacts}/raw_contacts`]: all(CONTACTS, (id) => ({
    _id: id,
    contact_id: id,
    deleted: 0,
    account_type: "org.example.account",
    account_name: "wagon",
    display_name: name(id),
  })),
  "content://sms": all(MESSAGES, (id) => ({
    _id: id,
    thread_id: 1 + (id % 400),
    address: tel(1 + (id % 400)),
    date: START + id * 60_000,
    type: 1 + (id % 2),
    subject: null,
    body: `Load-in is at nine, the gate code is with number ${id}; bring the long rope, the moon rig snapped again.`,
  })),
};
bringIn(phone);
const { port } = await serveAdb(phone);
process.stdout.write(`${port}\n`);
