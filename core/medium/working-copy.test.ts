import { expect, test } from "vitest";
import { noise } from "../../test/pictures.ts";
import { hashOf } from "../../test/scanning.ts";
import { faultySource } from "../bytes/faulty-source.ts";
import { portableSha256 } from "../bytes/hash.ts";
import { memorySource } from "../bytes/memory-source.ts";
import { type ByteSource, UnusableError } from "../bytes/source.ts";
import { COPY_BEGIN, type CopyMark, copySource } from "./working-copy.ts";

const SIZE = 9 * 1024 * 1024 + 123;
const bytes = noise(SIZE);

async function copy(source: ByteSource, into: Uint8Array, from: CopyMark): Promise<{ mark: CopyMark; because: unknown }> {
  let mark = from;
  try {
    const target = { write: async (at: number, piece: Uint8Array) => into.set(piece, at) };
    for await (const reached of copySource(source, target, await portableSha256(), from)) mark = reached;
    return { mark, because: null };
  } catch (because) {
    return { mark, because };
  }
}
async function hashAt(mark: CopyMark): Promise<string> {
  const sha256 = await portableSha256();
  if (mark.hash) sha256.load(mark.hash);
  return sha256.digest();
}

test("a copy that was broken off by a pulled cable goes on where it was, and its hash is that of the whole (FIPS 180-4, by node:crypto)", async () => {
  const into = new Uint8Array(SIZE);
  const whole = memorySource(bytes, "userdata");
  const slipping: ByteSource = {
    ...whole,
    async read(offset, length) {
      if (offset + length > 5_000_000) throw new UnusableError("userdata does not answer any more");
      return whole.read(offset, length);
    },
  };
  const first = await copy(slipping, into, COPY_BEGIN);
  expect(first.because).toBeInstanceOf(UnusableError);
  expect(first.mark.done).toBe(4 * 1024 * 1024);
  // As it is kept: through the browser's structured clone.
  const second = await copy(whole, into, structuredClone(first.mark));
  expect(second.because).toBeNull();
  expect(Buffer.from(into).equals(Buffer.from(bytes))).toBe(true);
  expect(await hashAt(second.mark)).toBe(hashOf(bytes));
});

test("bad places come as zeros and are told; the rest is there", async () => {
  const into = new Uint8Array(SIZE).fill(1);
  const { mark } = await copy(
    faultySource(memorySource(bytes), [{ start: 5_000_192, length: 1024, behaviour: "dead" }], async () => {}),
    into,
    COPY_BEGIN,
  );
  const lost = mark.unreadable.reduce((sum, { length }) => sum + length, 0);
  expect(lost).toBeGreaterThanOrEqual(1024);
  expect(lost).toBeLessThanOrEqual(1024 + 512);
  const [{ offset, length }] = mark.unreadable;
  expect(into.subarray(offset, offset + length).every((byte) => byte === 0)).toBe(true);
  expect(Buffer.from(into.subarray(0, offset)).equals(Buffer.from(bytes.subarray(0, offset)))).toBe(true);
  expect(Buffer.from(into.subarray(offset + length)).equals(Buffer.from(bytes.subarray(offset + length)))).toBe(true);
});
