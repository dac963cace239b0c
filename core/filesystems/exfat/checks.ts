import { ENTRY_BYTES, IN_USE } from "./layout.ts";

const rotated16 = (sum: number): number => ((sum & 1) << 15) | (sum >> 1);
const rotated32 = (sum: number): number => ((sum & 1 ? 0x8000_0000 : 0) + (sum >>> 1)) >>> 0;

/** §6.3.3 "EntrySetChecksum": over all entries of a set but for its own field. Erased ones are summed as they were in use. */
export function setChecksum(bytes: Uint8Array, at: number, entries: number): number {
  let sum = 0;
  for (let index = 0; index < entries * ENTRY_BYTES; index++) {
    if (index === 2 || index === 3) continue;
    const byte = bytes[at + index];
    sum = (rotated16(sum) + (index % ENTRY_BYTES === 0 ? byte | IN_USE : byte)) & 0xffff;
  }
  return sum;
}

/** §3.4 "BootChecksum": over the first eleven sectors but for VolumeFlags and PercentInUse. */
export function bootChecksum(bytes: Uint8Array): number {
  let sum = 0;
  for (let index = 0; index < bytes.length; index++) {
    if (index === 106 || index === 107 || index === 112) continue;
    sum = (rotated32(sum) + bytes[index]) >>> 0;
  }
  return sum;
}

/** §7.2.2 "TableChecksum" of the up-case table. */
export function tableChecksum(bytes: Uint8Array): number {
  let sum = 0;
  for (const byte of bytes) sum = (rotated32(sum) + byte) >>> 0;
  return sum;
}
