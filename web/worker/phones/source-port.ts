import { type ByteSource, checkRange, UnreadableError, UnusableError } from "../../../core/bytes/source.ts";
import { Turns } from "../../../core/work/turns.ts";

/** A ByteSource over a message port: one worker holds the phone, another one reads. */
interface Ask {
  readonly id: number;
  readonly offset: number;
  readonly length: number;
}
type Answer =
  | { readonly id: number; readonly bytes: Uint8Array }
  | { readonly id: number; readonly unreadable: Pick<UnreadableError, "offset" | "length" | "because" | "forGood"> }
  | { readonly id: number; readonly unusable: string };

/** Answers reads of a source at a port, in the order they come. */
export function serveSource(port: MessagePort, source: ByteSource): void {
  const turns = new Turns();
  port.onmessage = ({ data: { id, offset, length } }: MessageEvent<Ask>) => {
    void turns.take(async () => {
      try {
        const read = await source.read(offset, length);
        // What is sent away is gone here, and a source may still read it (what it keeps at hand, its whole content): so it is always a copy.
        const bytes = read.slice();
        port.postMessage({ id, bytes } satisfies Answer, [bytes.buffer as ArrayBuffer]);
      } catch (cause) {
        const answer: Answer =
          cause instanceof UnreadableError
            ? { id, unreadable: { offset: cause.offset, length: cause.length, because: cause.because, forGood: cause.forGood } }
            : { id, unusable: cause instanceof UnusableError ? cause.message : String(cause) };
        port.postMessage(answer);
      }
    });
  };
}

/** The reading end of a port. */
export function portSource(port: MessagePort, name: string, size: number): ByteSource {
  const waiting = new Map<number, (answer: Answer) => void>();
  let last = 0;
  port.onmessage = ({ data }: MessageEvent<Answer>) => {
    waiting.get(data.id)?.(data);
    waiting.delete(data.id);
  };
  return {
    name,
    size,
    async read(offset, length) {
      checkRange(this, offset, length);
      const id = ++last;
      const answer = await new Promise<Answer>((resolve) => {
        waiting.set(id, resolve);
        port.postMessage({ id, offset, length } satisfies Ask);
      });
      if ("bytes" in answer) return answer.bytes;
      if ("unreadable" in answer) {
        const { offset: at, length: lost, because, forGood } = answer.unreadable;
        throw new UnreadableError(at, lost, because, forGood);
      }
      throw new UnusableError(answer.unusable);
    },
  };
}
