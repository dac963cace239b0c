/** A practice phone in a process of its own, as a real one is: `practice-phone.ts MiB` prints its port. */
import { memorySource } from "../core/bytes/memory-source.ts";
import { serveAdb } from "../standins/adb/adbd.ts";
import { bringIn } from "../standins/hands.ts";
import { PRACTICE_PHONES } from "../standins/kit.ts";
import { PhoneFiles } from "../standins/phone/files.ts";
import { PracticePhone } from "../standins/phone/practice-phone.ts";
import { noise } from "../test/pictures.ts";

const MIB = 1024 * 1024;
const bytes = new Uint8Array(Number(process.argv[2]) * MIB);
const piece = noise(MIB);
for (let at = 0; at < bytes.length; at += MIB) bytes.set(piece, at);
const files = new PhoneFiles();
files.addFile("/sdcard/Movies/first-night.mp4", memorySource(bytes), 1_777_777_777);
files.addPartition("/dev/block/by-name/userdata", memorySource(bytes));
const card = PRACTICE_PHONES.find(({ id }) => id === "tern-recovery");
if (!card) throw new Error("the practice kit has changed");
const phone = new PracticePhone(card, files, null, true);
bringIn(phone);
const { port } = await serveAdb(phone);
process.stdout.write(`${port}\n`);
