import { layout, u32 } from "../../core/bytes/layout.ts";

/** ADB's transport packets, as the Android Open Source Project publishes them (packages/modules/adb, protocol.txt). Little-endian. */
export const PacketHeader = layout(24, {
  command: u32(0),
  arg0: u32(4),
  arg1: u32(8),
  payloadBytes: u32(12),
  checksum: u32(16),
  magic: u32(20),
});

const fourLetters = (text: string): number => Buffer.from(text, "latin1").readUInt32LE(0);
export const Command = {
  CNXN: fourLetters("CNXN"),
  AUTH: fourLetters("AUTH"),
  OPEN: fourLetters("OPEN"),
  OKAY: fourLetters("OKAY"),
  WRTE: fourLetters("WRTE"),
  CLSE: fourLetters("CLSE"),
} as const;

/** From this version on checksums are not looked at. */
export const VERSION = 0x0100_0001;
export const MAX_PAYLOAD = 1024 * 1024;
/** Longest payload of the packets that are exchanged before that. */
const SUMMED = 4096;

export interface Packet {
  readonly command: number;
  readonly arg0: number;
  readonly arg1: number;
  readonly payload: Buffer;
}

/** A packet as it goes over the wire. */
export function encodePacket(command: number, arg0: number, arg1: number, payload: Uint8Array = new Uint8Array(0)): Buffer {
  const packet = Buffer.alloc(PacketHeader.size + payload.length);
  packet.writeUInt32LE(command, 0);
  packet.writeUInt32LE(arg0 >>> 0, 4);
  packet.writeUInt32LE(arg1 >>> 0, 8);
  packet.writeUInt32LE(payload.length, 12);
  // The sum of all bytes: looked at until both sides have told their version, which the short first packets do.
  if (payload.length <= SUMMED)
    packet.writeUInt32LE(
      payload.reduce((sum, byte) => sum + byte, 0),
      16,
    );
  packet.writeUInt32LE((command ^ 0xffff_ffff) >>> 0, 20);
  packet.set(payload, PacketHeader.size);
  return packet;
}

/** A peer that does not keep to the protocol. */
export class PeerError extends Error {
  override readonly name = "PeerError";
}

/** Cuts a stream of bytes into packets. @throws PeerError for what is none */
export class PacketReader {
  #waiting: Buffer[] = [];
  #length = 0;

  *take(piece: Buffer): Generator<Packet> {
    this.#waiting.push(piece);
    this.#length += piece.length;
    while (this.#length >= PacketHeader.size) {
      const bytes = this.#waiting.length === 1 ? this.#waiting[0] : Buffer.concat(this.#waiting);
      this.#waiting = [bytes];
      const command = PacketHeader.command(bytes, 0);
      const payloadBytes = PacketHeader.payloadBytes(bytes, 0);
      if (PacketHeader.magic(bytes, 0) !== (command ^ 0xffff_ffff) >>> 0) throw new PeerError("this is no ADB packet");
      if (payloadBytes > MAX_PAYLOAD) throw new PeerError(`a payload of ${payloadBytes} bytes is too long`);
      const end = PacketHeader.size + payloadBytes;
      if (bytes.length < end) return;
      this.#waiting = [bytes.subarray(end)];
      this.#length = bytes.length - end;
      yield {
        command,
        arg0: PacketHeader.arg0(bytes, 0),
        arg1: PacketHeader.arg1(bytes, 0),
        payload: bytes.subarray(PacketHeader.size, end),
      };
    }
  }
}
