/// <reference path="./modules.d.ts" />
/// <reference types="vite/client" />
import { JpxImage } from "pdfjs-dist/image_decoders/pdf.image_decoders.mjs";
import wasm from "pdfjs-dist/wasm/openjpeg.wasm?url";
import { ofPixels } from "./drawing.ts";

/** Asks for what the decoder needs from this house, wherever the build put it. */
const HANDLER = { sendWithPromise: async () => new Uint8Array(await (await fetch(wasm)).arrayBuffer()) };

/** JPEG 2000 (ISO/IEC 15444-1), decoded by OpenJPEG: eight bits of each component. */
export async function decodeJpeg2000(bytes: Uint8Array): Promise<OffscreenCanvas> {
  JpxImage.setOptions({ handler: HANDLER, useWasm: true, useWorkerFetch: false, wasmUrl: null });
  const { width, height, componentsCount } = JpxImage.parseImageProperties(bytes);
  const decoded: Uint8ClampedArray = await JpxImage.decode(bytes, { numComponents: componentsCount });
  return ofPixels(withFourComponents(decoded, width * height, componentsCount), width, height);
}

/** Grey or colours, with or without transparency, as red, green, blue and opacity. */
function withFourComponents(from: Uint8ClampedArray, pixels: number, components: number): Uint8ClampedArray {
  if (components === 4) return from;
  const isGrey = components < 3;
  const hasOpacity = components === 2;
  const to = new Uint8ClampedArray(pixels * 4);
  for (let pixel = 0; pixel < pixels; pixel++) {
    const at = pixel * components;
    for (let colour = 0; colour < 3; colour++) to[pixel * 4 + colour] = from[isGrey ? at : at + colour];
    to[pixel * 4 + 3] = hasOpacity ? from[at + 1] : 255;
  }
  return to;
}
