import UTIF from "utif2";
import { ofPixels } from "./drawing.ts";

/** TIFF 6.0: the largest picture of its directories. */
export function decodeTiff(bytes: Uint8Array): OffscreenCanvas {
  const buffer = bytes.slice().buffer;
  const sideOf = (directory: UTIF.IFD, tag: string) => Number((directory[tag] as number[] | undefined)?.[0] ?? 0);
  const directories = UTIF.decode(buffer)
    .map((directory) => ({ directory, pixels: sideOf(directory, "t256") * sideOf(directory, "t257") }))
    .filter(({ pixels }) => pixels > 0)
    .sort((a, b) => b.pixels - a.pixels);
  const [largest] = directories;
  if (!largest) throw new Error("no directory of it leads to a picture");
  UTIF.decodeImage(buffer, largest.directory);
  const { width, height } = largest.directory;
  return ofPixels(UTIF.toRGBA8(largest.directory), width, height);
}
