import type { PhoneFile } from "../phone/files.ts";
import type { PracticePhone } from "../phone/practice-phone.ts";
import type { ServiceStream } from "./service-stream.ts";

/** File transfer (AOSP, SYNC.TXT and file_sync_protocol.h): requests of four letters, a length and a path. Little-endian. */
const MAX_PATH = 1024;
const CHUNK = 64 * 1024;
const ENOENT = 2;

const words = (id: string, ...values: number[]): Buffer => {
  const bytes = Buffer.alloc(4 + values.length * 4);
  bytes.write(id, "latin1");
  values.forEach((value, index) => {
    bytes.writeUInt32LE(value >>> 0, 4 + index * 4);
  });
  return bytes;
};
const fail = (sentence: string): Buffer => Buffer.concat([words("FAIL", Buffer.byteLength(sentence)), Buffer.from(sentence)]);

/** Version 2 of what is told of a file: error, dev, ino, mode, nlink, uid, gid, size, and three times in seconds. */
function statV2(id: string, file: PhoneFile | null): Buffer {
  const bytes = Buffer.alloc(72);
  bytes.write(id, "latin1");
  if (!file) {
    bytes.writeUInt32LE(ENOENT, 4);
    return bytes;
  }
  bytes.writeUInt32LE(file.mode, 24);
  bytes.writeUInt32LE(1, 28);
  bytes.writeBigUInt64LE(BigInt(file.size), 40);
  for (const at of [48, 56, 64]) bytes.writeBigInt64LE(BigInt(file.modified), at);
  return bytes;
}

const named = (head: Buffer, name: string): Buffer =>
  Buffer.concat([head, words("", Buffer.byteLength(name)).subarray(4), Buffer.from(name)]);

/** One answer per request. Sending to the phone is refused: practice phones are only read. */
export async function serveSync(stream: ServiceStream, phone: PracticePhone): Promise<void> {
  for (;;) {
    const head = await stream.exactly(8);
    if (!head) return;
    const id = head.toString("latin1", 0, 4);
    const length = head.readUInt32LE(4);
    if (id === "QUIT") return;
    if (length > MAX_PATH) {
      await stream.write(fail("the path is too long"));
      return;
    }
    const path = (await stream.exactly(length))?.toString("utf8") ?? "";
    const file = phone.files.find(path);
    switch (id) {
      case "STAT":
        await stream.write(words("STAT", file?.mode ?? 0, file?.size ?? 0, file?.modified ?? 0));
        break;
      case "STA2":
      case "LST2":
        await stream.write(statV2(id, file));
        break;
      case "LIST":
        for (const one of phone.files.list(path)) await stream.write(named(words("DENT", one.mode, one.size, one.modified), one.name));
        await stream.write(words("DONE", 0, 0, 0, 0));
        break;
      case "LIS2":
        for (const one of phone.files.list(path)) await stream.write(named(statV2("DNT2", one), one.name));
        await stream.write(Buffer.concat([words("DONE"), Buffer.alloc(72)]));
        break;
      case "RECV":
        await receive(stream, file);
        break;
      case "SEND":
        await refuse(stream);
        return;
      default:
        await stream.write(fail(`${id} is not known here`));
        return;
    }
  }
}

async function receive(stream: ServiceStream, file: PhoneFile | null): Promise<void> {
  if (!file?.read) {
    await stream.write(fail(file ? "Is a directory" : "No such file or directory"));
    return;
  }
  for (let at = 0; at < file.size && !stream.closed; at += CHUNK) {
    const bytes = await file.read(at, Math.min(CHUNK, file.size - at));
    await stream.write(Buffer.concat([words("DATA", bytes.length), bytes]));
  }
  await stream.write(words("DONE", 0));
}

/** Says no, and takes what the computer sends on until it has heard it. */
async function refuse(stream: ServiceStream): Promise<void> {
  await stream.write(fail("Read-only file system"));
  for (;;) {
    const head = await stream.exactly(8);
    if (head?.toString("latin1", 0, 4) !== "DATA") return;
    if (!(await stream.exactly(Math.min(CHUNK, head.readUInt32LE(4))))) return;
  }
}
