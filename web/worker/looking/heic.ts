/// <reference path="./modules.d.ts" />
import openLibrary from "libheif-js/libheif-wasm/libheif-bundle.mjs";
import { ofPixels } from "./drawing.ts";

/** The part of libheif's JavaScript interface that is used. */
interface Heif {
  HeifDecoder: new () => { decode(bytes: Uint8Array): HeifPicture[] };
}
interface HeifPicture {
  get_width(): number;
  get_height(): number;
  is_primary(): boolean;
  display(target: { data: Uint8ClampedArray; width: number; height: number }, done: (shown: object | null) => void): void;
  free(): void;
}

/** HEIF pictures (ISO/IEC 23008-12), turned as they say themselves. Decoded by libheif, which has a chunk and a notice of its own. */
export async function decodeHeic(bytes: Uint8Array): Promise<OffscreenCanvas> {
  const library = (await openLibrary()) as Heif;
  const pictures = new library.HeifDecoder().decode(bytes);
  try {
    const picture = pictures.find((one) => one.is_primary()) ?? pictures[0];
    if (!picture) throw new Error("no picture in it can be decoded");
    const [width, height] = [picture.get_width(), picture.get_height()];
    const data = new Uint8ClampedArray(width * height * 4);
    const shown = await new Promise((done) => picture.display({ data, width, height }, done));
    if (!shown) throw new Error("its picture cannot be decoded");
    return ofPixels(data, width, height);
  } finally {
    for (const picture of pictures) picture.free();
  }
}
