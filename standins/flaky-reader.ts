import { setTimeout as wait } from "node:timers/promises";
import { type Fault, faultySource } from "../core/bytes/faulty-source.ts";

/** A card reader with a worn card in it: asked before each reading. @returns whether the card gives these bytes, after the time that it takes */
export type Reader = (offset: number, length: number) => Promise<boolean>;

/** Reads as the faults say. What a card refused it may give when it is asked again, and a dead place never. */
export function flakyReader(faults: readonly Fault[]): Reader {
  const card = faultySource({ name: "card", size: Number.MAX_SAFE_INTEGER, read: async () => new Uint8Array(0) }, faults, (milliseconds) =>
    wait(milliseconds),
  );
  return (offset, length) =>
    card.read(offset, length).then(
      () => true,
      () => false,
    );
}
