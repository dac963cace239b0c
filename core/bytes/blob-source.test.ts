import { expect, test } from "vitest";
import { noise } from "../../test/pictures.ts";
import type { BlobLike } from "./blob-run.ts";
import { blobSource } from "./blob-source.ts";

const MIB = 1024 * 1024;
const bytes = noise(9 * MIB + 700);
const isPart = (got: Uint8Array, at: number) => Buffer.from(got).equals(bytes.subarray(at, at + got.length));

/** Node's own Blob, with a note of what is asked of it; `streamed` may put another stream in the place of its own. */
function watched(streamed = (stream: ReadableStream<Uint8Array<ArrayBuffer>>, _at: number) => stream) {
  const slices: number[] = [];
  const streams: number[] = [];
  const inner = new Blob([new Uint8Array(bytes)]);
  const blob: BlobLike = {
    size: inner.size,
    slice: (start, end) => ({
      arrayBuffer: () => {
        slices.push(start / MIB);
        return inner.slice(start, end).arrayBuffer();
      },
      stream: () => {
        streams.push(start / MIB);
        return streamed(inner.slice(start, end).stream() as ReadableStream<Uint8Array<ArrayBuffer>>, start);
      },
    }),
  };
  return { source: blobSource(blob, "card.img"), slices, streams };
}

test("who reads on in large pieces is given them from one stream, several asked for at once too, headers between them from slices", async () => {
  const { source, slices, streams } = watched();
  const first = await source.read(0, 2 * MIB);
  const [second, header, third] = await Promise.all([source.read(2 * MIB, 2 * MIB), source.read(100, 50), source.read(4 * MIB, 4 * MIB)]);
  const last = await source.read(8 * MIB, bytes.length - 8 * MIB);
  expect([first, second, third, last].map((one, index) => isPart(one, index === 0 ? 0 : [0, 2, 4, 8][index] * MIB))).toEqual([
    true,
    true,
    true,
    true,
  ]);
  expect(isPart(header, 100)).toBe(true);
  expect(streams).toEqual([2]);
  expect(slices).toEqual([0, 100 / MIB]);
});

test("a leap begins a run of its own, with its own bytes", async () => {
  const { source, streams } = watched();
  for (const at of [0, 1, 5, 6, 7, 2, 3]) expect(isPart(await source.read(at * MIB, MIB), at * MIB), `at ${at}`).toBe(true);
  expect(streams).toEqual([1, 6, 3]);
});

test("a stream that breaks off or ends early is taken for a slice's word; what can be read is", async () => {
  const cut = new TransformStream<Uint8Array, Uint8Array>();
  for (const broken of [
    () => new ReadableStream<Uint8Array<ArrayBuffer>>({ type: "bytes", pull: (one) => one.error(new Error("it changed")) }),
    () => new ReadableStream<Uint8Array<ArrayBuffer>>({ type: "bytes", start: (one) => one.close() }),
    // One that gives no bytes into buffers of ours.
    () => cut.readable as ReadableStream<Uint8Array<ArrayBuffer>>,
  ]) {
    const { source, slices } = watched(broken);
    for (let at = 0; at < 4; at++) expect(isPart(await source.read(at * MIB, MIB), at * MIB)).toBe(true);
    expect(slices).toEqual([0, 1, 2, 3]);
  }
});

test("a file that shrank under it is said to be unreadable, in the place that was asked for", async () => {
  const inner = new Blob([bytes.slice(0, 3 * MIB)]);
  const source = blobSource(
    { size: bytes.length, slice: (start, end) => inner.slice(start, end) as ReturnType<BlobLike["slice"]> },
    "card.img",
  );
  expect(isPart(await source.read(0, MIB), 0)).toBe(true);
  expect(isPart(await source.read(MIB, MIB), MIB)).toBe(true);
  await expect(source.read(2 * MIB, 2 * MIB)).rejects.toMatchObject({ offset: 2 * MIB, length: 2 * MIB });
  await expect(source.read(4 * MIB, MIB)).rejects.toThrow("ended early");
});
