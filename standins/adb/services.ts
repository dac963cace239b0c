import { writeBackup } from "../phone/backup.ts";
import { wordsOf } from "../phone/command-line.ts";
import type { PracticePhone } from "../phone/practice-phone.ts";
import { runShell } from "../phone/shell.ts";
import type { ServiceStream } from "./service-stream.ts";
import { serveSync } from "./sync.ts";

/** Packets of the shell protocol, version 2 (AOSP, shell_protocol.h): one byte of kind, then the length. */
const ShellPacket = { stdout: 1, stderr: 2, exit: 3 } as const;

const framed = (kind: number, bytes: Uint8Array): Buffer => {
  const packet = Buffer.alloc(5 + bytes.length);
  packet[0] = kind;
  packet.writeUInt32LE(bytes.length, 1);
  packet.set(bytes, 5);
  return packet;
};

async function shellV2(command: string, stream: ServiceStream, phone: PracticePhone): Promise<void> {
  const status = await runShell(command, phone, {
    out: (bytes) => stream.write(framed(ShellPacket.stdout, bytes)),
    err: (bytes) => stream.write(framed(ShellPacket.stderr, bytes)),
  });
  await stream.write(framed(ShellPacket.exit, Uint8Array.of(status)));
}

const plain = async (command: string, stream: ServiceStream, phone: PracticePhone): Promise<void> => {
  const write = (bytes: Uint8Array) => stream.write(bytes);
  await runShell(command, phone, { out: write, err: write });
};

/** Services by the beginning of their name (AOSP, SERVICES.TXT). Adding one is adding its line. */
const SERVICES: readonly [RegExp, (rest: string, stream: ServiceStream, phone: PracticePhone) => Promise<void>][] = [
  [/^shell,v2[^:]*:/, shellV2],
  [/^(?:shell[^:]*|exec):/, plain],
  [/^backup:/, (apps, stream, phone) => writeBackup(wordsOf(apps), phone, (bytes) => stream.write(bytes))],
  [/^reboot:/, async (mode, _, phone) => phone.restart(mode)],
  [/^sync:$/, (_, stream, phone) => serveSync(stream, phone)],
];

/** @returns what runs the service on a stream, or null for one that this phone does not know */
export function runService(service: string, stream: ServiceStream, phone: PracticePhone): (() => Promise<void>) | null {
  for (const [begins, run] of SERVICES) {
    const match = begins.exec(service);
    if (match) return () => run(service.slice(match[0].length), stream, phone);
  }
  return null;
}
