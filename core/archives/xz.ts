import * as xz from "xz-decompress";
import { UnusableError } from "../bytes/source.ts";

/** The part of a stream that is needed here (WHATWG Streams): browsers and Node have it, the core's own types have not. */
interface Streams {
  readonly ReadableStream: new (source: {
    pull(controller: { enqueue(piece: Uint8Array): void; close(): void }): Promise<void>;
  }) => unknown;
}
interface Reader {
  read(): Promise<{ done: boolean; value?: Uint8Array }>;
  cancel(): Promise<void>;
}

/** A CommonJS package: Node hands it on as a default, bundlers by its names. */
type Package = { readonly XzReadableStream: new (stream: unknown) => { getReader(): Reader } };
const { XzReadableStream } = ("default" in xz ? xz.default : xz) as unknown as Package;

/** What comes out of an xz file (The .xz File Format 1.1). @throws UnusableError where it is broken or cut off */
export async function* unpackedXz(pieces: AsyncIterable<Uint8Array>, name: string): AsyncGenerator<Uint8Array> {
  const packed = pieces[Symbol.asyncIterator]();
  const stream = new (globalThis as unknown as Streams).ReadableStream({
    async pull(controller) {
      const { done, value } = await packed.next();
      if (done) controller.close();
      else controller.enqueue(value);
    },
  });
  const reader = new XzReadableStream(stream).getReader();
  try {
    for (;;) {
      const { done, value } = await reader.read().catch((cause: unknown) => {
        throw new UnusableError(`${name} is no whole xz file (${cause instanceof Error ? cause.message : String(cause)})`);
      });
      if (done || !value) return;
      // The next piece is unpacked into the same memory.
      yield value.slice();
    }
  } finally {
    await reader.cancel().catch(() => undefined);
  }
}
