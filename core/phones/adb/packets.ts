import { layout, u32 } from "../../bytes/layout.ts";

/** ADB's transport packets, as the Android Open Source Project publishes them (packages/modules/adb, protocol.txt). Little-endian. */
const PacketHeader = layout(24, {
  command: u32(0),
  arg0: u32(4),
  arg1: u32(8),
  payloadBytes: u32(12),
  checksum: u32(16),
  magic: u32(20),
});

const fourLetters = (text: string): number =>
  [...text].reduce((value, letter, place) => value + letter.charCodeAt(0) * 2 ** (8 * place), 0);
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
  readonly payload: Uint8Array;
}

/** A packet as it goes over the wire. */
export function encodePacket(command: number, arg0: number, arg1: number, payload: Uint8Array = new Uint8Array(0)): Uint8Array {
  const packet = new Uint8Array(PacketHeader.size + payload.length);
  const head = new DataView(packet.buffer);
  head.setUint32(PacketHeader.command.at, command, true);
  head.setUint32(PacketHeader.arg0.at, arg0 >>> 0, true);
  head.setUint32(PacketHeader.arg1.at, arg1 >>> 0, true);
  head.setUint32(PacketHeader.payloadBytes.at, payload.length, true);
  // The sum of all bytes: looked at until both sides have told their version, which the short first packets do.
  if (payload.length <= SUMMED)
    head.setUint32(
      PacketHeader.checksum.at,
      payload.reduce((sum, byte) => sum + byte, 0),
      true,
    );
  head.setUint32(PacketHeader.magic.at, (command ^ 0xffff_ffff) >>> 0, true);
  packet.set(payload, PacketHeader.size);
  return packet;
}

/** A peer that does not keep to the protocol. */
export class PeerError extends Error {
  override readonly name = "PeerError";
}

/** Cuts a stream of bytes into packets. A payload that arrives in one piece is not copied. */
export class PacketReader {
  readonly #head = new Uint8Array(PacketHeader.size);
  #headFilled = 0;
  #payload: Uint8Array | null = null;
  #payloadFilled = 0;

  /** @throws PeerError for what is no packet */
  *take(piece: Uint8Array): Generator<Packet> {
    let at = 0;
    while (at < piece.length || (this.#headFilled === PacketHeader.size && PacketHeader.payloadBytes(this.#head, 0) === 0)) {
      if (this.#headFilled < PacketHeader.size) {
        const part = piece.subarray(at, at + PacketHeader.size - this.#headFilled);
        this.#head.set(part, this.#headFilled);
        this.#headFilled += part.length;
        at += part.length;
        if (this.#headFilled < PacketHeader.size) return;
        this.#check();
      }
      const expected = PacketHeader.payloadBytes(this.#head, 0);
      if (!this.#payload && piece.length - at >= expected) {
        yield this.#packet(piece.subarray(at, at + expected));
        at += expected;
        continue;
      }
      this.#payload ??= new Uint8Array(expected);
      const part = piece.subarray(at, at + expected - this.#payloadFilled);
      this.#payload.set(part, this.#payloadFilled);
      this.#payloadFilled += part.length;
      at += part.length;
      if (this.#payloadFilled < expected) return;
      yield this.#packet(this.#payload);
    }
  }

  #check(): void {
    const command = PacketHeader.command(this.#head, 0);
    const payloadBytes = PacketHeader.payloadBytes(this.#head, 0);
    if (PacketHeader.magic(this.#head, 0) !== (command ^ 0xffff_ffff) >>> 0) throw new PeerError("this is no ADB packet");
    if (payloadBytes > MAX_PAYLOAD) throw new PeerError(`a payload of ${payloadBytes} bytes is too long`);
  }

  #packet(payload: Uint8Array): Packet {
    const packet = {
      command: PacketHeader.command(this.#head, 0),
      arg0: PacketHeader.arg0(this.#head, 0),
      arg1: PacketHeader.arg1(this.#head, 0),
      payload,
    };
    this.#headFilled = 0;
    this.#payload = null;
    this.#payloadFilled = 0;
    return packet;
  }
}
