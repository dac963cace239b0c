import { describe, expect, test } from "vitest";
import { boundMemory } from "./memory-bound.ts";

const MIB = 1024 * 1024;

/** A memory of its own whose growing is bound, and no other's. */
function bound(most: number): WebAssembly.Memory {
  const memory = new WebAssembly.Memory({ initial: 16 });
  boundMemory(most, memory);
  return memory;
}

describe("memory of compiled decoders", () => {
  test("grows up to the bound and not a page further; what was there stays", () => {
    const memory = bound(8 * MIB);
    new Uint8Array(memory.buffer)[0] = 7;
    expect(memory.grow(112)).toBe(16);
    expect(memory.buffer.byteLength).toBe(8 * MIB);
    expect(() => memory.grow(1)).toThrow("more memory than it may have");
    expect(new Uint8Array(memory.buffer)[0]).toBe(7);
  });

  test("a decoder that asks for parts of a page, as compilers let it, is held by the same bound", () => {
    const memory = bound(2 * MIB);
    // Emscripten's runtime asks for (bytes wanted - bytes there + 65535) / 65536 pages, which need be no whole number.
    expect(() => memory.grow((40 * MIB + 65_535) / 65_536)).toThrow(RangeError);
    expect(memory.grow(0.999)).toBe(16);
  });

  test("bound for all, HEIF is refused what it wants to grow to, and says that it cannot be decoded", async () => {
    const { viewedFiles } = await import("../../../test/viewing-card.ts");
    const grow = WebAssembly.Memory.prototype.grow;
    try {
      boundMemory(0);
      const { default: open } = await import("libheif-js/libheif-wasm/libheif-bundle.mjs");
      const library = (await open()) as { HeifDecoder: new () => { decode(bytes: Uint8Array): { get_width(): number }[] } };
      const picture = viewedFiles().get("pic.heic") ?? new Uint8Array();
      const padded = new Uint8Array(64 * MIB);
      padded.set(picture);
      let told: unknown = null;
      try {
        told = new library.HeifDecoder().decode(padded);
      } catch (cause) {
        told = cause;
      }
      expect(Array.isArray(told) && told.length > 0).toBe(false);
    } finally {
      WebAssembly.Memory.prototype.grow = grow;
    }
  });
});
