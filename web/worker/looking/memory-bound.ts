/** Bytes of a page of WebAssembly's memory (WebAssembly Core Specification 2.0 §4.2.8). */
const PAGE = 65_536;

/**
 * Decoders that are compiled grow their memory as what they decode tells them: here no further than `most` bytes each. What asks for more gets none, and ends
 * with an error of its own; everything else goes on. To be called before the first of them is loaded.
 */
export function boundMemory(most: number, memory: Pick<WebAssembly.Memory, "grow"> = WebAssembly.Memory.prototype): void {
  const grow = memory.grow;
  memory.grow = function (this: WebAssembly.Memory, pages: number): number {
    if (this.buffer.byteLength + pages * PAGE > most) throw new RangeError("it wants more memory than it may have");
    return grow.call(this, pages);
  };
}
