import { buildHuffmanTable, type HuffmanTable } from "./huffman.ts";
import { FrameComponent, FrameHeader, Marker, ScanComponent, ScanSpectrum } from "./layout.ts";
import type { Component, Frame, Scan } from "./scan-walk.ts";

/** Largest picture whose coefficients are followed, in blocks of 64 samples: 160 megasamples. */
const MAX_BLOCKS = 2_500_000;
/** T.81 §B.2.2: a component takes 1 to 4 blocks each way; §B.2.3: a scan holds at most four of them. */
const MAX_COMPONENTS = 4;
/** Slack on the DC values a picture can have: some encoders overshoot on purpose at hard edges. */
const DC_SLACK = 1.5;

/** Tables that stay in force until they are defined anew (T.81 §B.2.4). */
export class Tables {
  readonly dc: (HuffmanTable | null)[] = [null, null, null, null];
  readonly ac: (HuffmanTable | null)[] = [null, null, null, null];
  /** First (DC) step of each quantisation table. */
  readonly dcStep: number[] = [1, 1, 1, 1];
  /** Units between restart markers, 0 for none. */
  restartInterval = 0;

  /** DHT, §B.2.4.2. @returns false where it is no table */
  defineHuffman(body: Uint8Array): boolean {
    for (let at = 0; at < body.length; ) {
      if (at + 17 > body.length) return false;
      const selector = body[at];
      const counts = body.subarray(at + 1, at + 17);
      const total = counts.reduce((sum, count) => sum + count, 0);
      if (at + 17 + total > body.length || selector >> 4 > 1 || (selector & 15) > 3) return false;
      const table = buildHuffmanTable(counts, body.slice(at + 17, at + 17 + total));
      if (!table) return false;
      (selector >> 4 === 0 ? this.dc : this.ac)[selector & 15] = table;
      at += 17 + total;
    }
    return true;
  }

  /** DQT, §B.2.4.1. @returns false where it is no table */
  defineQuantisation(body: Uint8Array): boolean {
    for (let at = 0; at < body.length; ) {
      const wide = body[at] >> 4;
      const index = body[at] & 15;
      const bytes = 64 * (wide + 1);
      if (wide > 1 || index > 3 || at + 1 + bytes > body.length) return false;
      this.dcStep[index] = Math.max(1, wide ? (body[at + 1] << 8) | body[at + 2] : body[at + 1]);
      at += 1 + bytes;
    }
    return true;
  }
}

/** True for the frame headers whose scans are Huffman-coded blocks that can be followed: SOF0, SOF1, SOF2. */
export const isWalkableFrame = (marker: number): boolean => marker >= Marker.SOF0 && marker <= Marker.SOF2;

export const isFrame = (marker: number): boolean =>
  marker >= Marker.SOF0 && marker <= Marker.SOF15 && marker !== Marker.DHT && marker !== Marker.JPG && marker !== Marker.DAC;

/** @returns null where the header is none that T.81 allows */
export function readFrame(marker: number, body: Uint8Array): (Frame & { precision: number }) | null {
  if (body.length < FrameHeader.size) return null;
  const height = FrameHeader.lines(body, 0);
  const width = FrameHeader.samplesPerLine(body, 0);
  const count = FrameHeader.components(body, 0);
  const precision = FrameHeader.precision(body, 0);
  if (width === 0 || height === 0 || count === 0 || count > MAX_COMPONENTS) return null;
  if (body.length < FrameHeader.size + count * FrameComponent.size || precision < 2 || precision > 16) return null;
  const declared = Array.from({ length: count }, (_, index) => {
    const base = FrameHeader.size + index * FrameComponent.size;
    const sampling = FrameComponent.sampling(body, base);
    return { id: FrameComponent.id(body, base), h: sampling >> 4, v: sampling & 15, quantTable: FrameComponent.quantTable(body, base) };
  });
  if (declared.some(({ h, v, quantTable }) => h < 1 || h > 4 || v < 1 || v > 4 || quantTable > 3)) return null;
  const hMax = Math.max(...declared.map(({ h }) => h));
  const vMax = Math.max(...declared.map(({ v }) => v));
  const mcusWide = Math.ceil(width / (8 * hMax));
  const mcusHigh = Math.ceil(height / (8 * vMax));
  const progressive = marker === Marker.SOF2;
  const blocks = declared.reduce((sum, { h, v }) => sum + mcusWide * h * mcusHigh * v, 0);
  if (blocks > MAX_BLOCKS) return null;
  const components = declared.map(
    (one): Component => ({
      ...one,
      blocksWide: Math.ceil(Math.ceil((width * one.h) / hMax) / 8),
      blocksHigh: Math.ceil(Math.ceil((height * one.v) / vMax) / 8),
      paddedWide: mcusWide * one.h,
      paddedHigh: mcusHigh * one.v,
      nonZero: progressive ? new Uint8Array(mcusWide * one.h * mcusHigh * one.v * 64) : null,
    }),
  );
  return { width, height, progressive, mcusWide, mcusHigh, components, precision };
}

/** @returns null where the scan names components or tables that were never defined */
export function readScan(body: Uint8Array, frame: Frame & { precision: number }, tables: Tables): Scan | null {
  const count = body[0];
  if (count < 1 || count > MAX_COMPONENTS || body.length < 1 + count * ScanComponent.size + ScanSpectrum.size) return null;
  const end = 1 + count * ScanComponent.size;
  const approximation = ScanSpectrum.approximation(body, end);
  const scan = {
    from: ScanSpectrum.from(body, end),
    to: ScanSpectrum.to(body, end),
    high: approximation >> 4,
    low: approximation & 15,
  };
  if (scan.to > 63 || scan.from > scan.to || scan.low > 13 || (frame.progressive && scan.from > 0 && count > 1)) return null;
  const components: Scan["components"][number][] = [];
  for (let index = 0; index < count; index++) {
    const base = 1 + index * ScanComponent.size;
    const component = frame.components.find(({ id }) => id === ScanComponent.id(body, base));
    const selected = ScanComponent.tables(body, base);
    if (!component || selected >> 4 > 3 || (selected & 15) > 3) return null;
    // A DC value is eight times a mean that lies within half the sample range of zero (§A.3.3), divided by its step.
    const dcLimit = (DC_SLACK * 2 ** (frame.precision + 2)) / tables.dcStep[component.quantTable] + 1;
    components.push({ component, dc: tables.dc[selected >> 4], ac: tables.ac[selected & 15], dcLimit });
  }
  return { ...scan, components };
}
