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
    const target = {
      write: async (at: number, piece: Uint8Array) => into.set(piece, at),
      read: async (at: number, length: number) => into.slice(at, at + length),
    };
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

const MIB = 1024 * 1024;
const halfWay = async (content: Uint8Array) => {
  const into = new Uint8Array(content.length);
  const slipping = {
    ...memorySource(content, "userdata"),
    read: async (offset: number, length: number) => {
      if (offset + length > 5_000_000) throw new UnusableError("userdata does not answer any more");
      return content.subarray(offset, offset + length);
    },
  };
  return { into, ...(await copy(slipping, into, COPY_BEGIN)) };
};

test("another phone of the same size: what was copied last is not on it, so that nothing of it goes into the copy", async () => {
  const { into, mark } = await halfWay(bytes);
  const kept = into.slice();
  const other = bytes.slice();
  // One bit, in the last bytes before the mark.
  other[mark.done - 1] ^= 1;
  const { because, mark: after } = await copy(memorySource(other, "userdata"), into, structuredClone(mark));
  expect(String(because)).toContain("does not hold what was copied from it last");
  expect(after).toEqual(mark);
  expect(Buffer.from(into).equals(Buffer.from(kept))).toBe(true);
});

test("zeros and holes before the mark say nothing: the last bytes that do are compared", async () => {
  const empty = bytes.slice();
  empty.fill(0, 2 * MIB, 4 * MIB);
  const { into, mark } = await halfWay(empty);
  const other = noise(SIZE, 9);
  other.fill(0, 2 * MIB, 4 * MIB);
  expect(String((await copy(memorySource(other), into, structuredClone(mark))).because)).toContain("copied from it last");
  const holed = { ...structuredClone(mark), unreadable: [{ offset: 2 * MIB - 512, length: 512 }] };
  other.set(empty.subarray(MIB, 2 * MIB - 65_536), MIB);
  expect((await copy(memorySource(other), into.slice(), holed)).because).toBeNull();
});

test("a place that died since it was copied does not make it another phone", async () => {
  const { into, mark } = await halfWay(bytes);
  const dying = faultySource(memorySource(bytes), [{ start: mark.done - 700, length: 512, behaviour: "dead" }], async () => {});
  const { because } = await copy(dying, into, structuredClone(mark));
  expect(because).toBeNull();
  expect(Buffer.from(into).equals(Buffer.from(bytes))).toBe(true);
});

test("bad places on both sides of a break are one list, in order and without doubles", async () => {
  const dead = [
    { start: 1_000_448, length: 1024, behaviour: "dead" as const },
    { start: 4 * MIB + 512, length: 512, behaviour: "dead" as const },
  ];
  const into = new Uint8Array(SIZE);
  const source = faultySource(memorySource(bytes), dead, async () => {});
  const first = await copy(
    { ...source, read: (at, length) => (at >= 4 * MIB ? Promise.reject(new UnusableError("gone")) : source.read(at, length)) },
    into,
    COPY_BEGIN,
  );
  const { mark } = await copy(source, into, structuredClone(first.mark));
  expect(mark.done).toBe(SIZE);
  const sectors = mark.unreadable.reduce((sum, { length }) => sum + length, 0);
  expect(sectors).toBe(3 * 512);
  expect([...mark.unreadable].sort((a, b) => a.offset - b.offset)).toEqual(mark.unreadable);
});
