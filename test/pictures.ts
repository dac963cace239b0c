import { spawnSync } from "node:child_process";
import jpegJs from "jpeg-js";
import { PNG } from "pngjs";
import { seeded } from "../demo/random.ts";

/** Pixels with structure and noise: every coefficient of a JPEG gets something to do. RGBA. */
function pixels(width: number, height: number, seed: number): Buffer {
  const random = seeded(seed);
  const data = Buffer.alloc(width * height * 4, 255);
  for (let at = 0; at < width * height; at++) {
    const x = at % width;
    const y = Math.floor(at / width);
    data[at * 4] = (x * 3 + seed * 40 + random() * 60) & 255;
    data[at * 4 + 1] = (y * 2 + random() * 40) & 255;
    data[at * 4 + 2] = (128 + 100 * Math.sin((x + y + seed) / 9)) & 255;
  }
  return data;
}

/** A baseline JPEG by jpeg-js: three components, nothing subsampled. */
export const jpegOf = (width: number, height: number, seed = 1, quality = 80): Uint8Array =>
  new Uint8Array(jpegJs.encode({ width, height, data: pixels(width, height, seed) }, quality).data);

/** A PNG by pngjs. */
export function pngOf(width: number, height: number, seed = 1): Uint8Array {
  const png = new PNG({ width, height });
  pixels(width, height, seed).copy(png.data);
  return new Uint8Array(PNG.sync.write(png));
}

/** A netpbm picture for the tools of the Independent JPEG Group. */
const netpbm = (width: number, height: number, seed: number): Buffer => {
  const rgba = pixels(width, height, seed);
  const rgb = Buffer.alloc(width * height * 3);
  for (let at = 0; at < width * height; at++) rgba.copy(rgb, at * 3, at * 4, at * 4 + 3);
  return Buffer.concat([Buffer.from(`P6 ${width} ${height} 255\n`), rgb]);
};

function filter(command: string, args: string[], input: Uint8Array): { output: Uint8Array; complaints: string; status: number | null } {
  const { stdout, stderr, status } = spawnSync(command, args, { input, maxBuffer: 64 * 1024 * 1024 });
  return { output: new Uint8Array(stdout), complaints: stderr.toString(), status };
}

/** A JPEG by the real cjpeg, with its options ("-progressive", "-restart", "1B", "-grayscale", …). */
export const cjpegOf = (width: number, height: number, options: string[], seed = 1): Uint8Array =>
  filter("cjpeg", options, netpbm(width, height, seed)).output;

/** What the real djpeg says of a JPEG: nothing, or its warnings. */
export const djpegComplaints = (jpeg: Uint8Array): string => {
  const { complaints, status } = filter("djpeg", ["-outfile", "/dev/null"], jpeg);
  return complaints || (status === 0 || status === 2 ? complaints : `status ${status}`);
};

/** Bytes that look like anything, the same for the same seed. */
export function noise(length: number, seed = 1): Uint8Array {
  const random = seeded(seed);
  return Uint8Array.from({ length }, () => Math.floor(random() * 256));
}

export const joined = (...parts: Uint8Array[]): Uint8Array => new Uint8Array(Buffer.concat(parts));

/** A copy with `bytes` written over it from `at` on. A Buffer's own `slice` is a view: what it was made of would change too. */
export function patched(good: Uint8Array, at: number, bytes: ArrayLike<number>): Uint8Array {
  const broken = new Uint8Array(good);
  broken.set(bytes, at);
  return broken;
}
