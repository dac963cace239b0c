/// <reference path="./modules.d.ts" />
/// <reference types="vite/client" />
import { getDocument, type PDFDocumentProxy } from "pdfjs-dist";
import * as worker from "pdfjs-dist/build/pdf.worker.mjs";
import { newCanvas } from "./drawing.ts";

// The library looks for its own worker here: this is one already, and it is ended as a whole.
Object.assign(globalThis, { pdfjsWorker: worker });

/** What the library fetches by name: letters of the standard fonts, tables of characters, decoders. All of it is of this house. */
const FILES = {
  ...import.meta.glob<string>("/../node_modules/pdfjs-dist/standard_fonts/*.{pfb,ttf}", { query: "?url", import: "default" }),
  ...import.meta.glob<string>("/../node_modules/pdfjs-dist/cmaps/*.bcmap", { query: "?url", import: "default" }),
  ...import.meta.glob<string>("/../node_modules/pdfjs-dist/wasm/*.wasm", { query: "?url", import: "default" }),
};

class OwnFiles {
  async fetch({ filename }: { filename: string }): Promise<Uint8Array> {
    const found = Object.entries(FILES).find(([path]) => path.endsWith(`/${filename}`));
    if (!found) throw new Error(`${filename} is not part of this house`);
    return new Uint8Array(await (await fetch(await found[1]())).arrayBuffer());
  }
}

/** Canvases without a page around them. */
class OwnCanvases {
  create(width: number, height: number) {
    return newCanvas(width, height);
  }
  reset({ canvas }: { canvas: OffscreenCanvas }, width: number, height: number): void {
    canvas.width = width;
    canvas.height = height;
  }
  destroy({ canvas }: { canvas: OffscreenCanvas }): void {
    canvas.width = 0;
    canvas.height = 0;
  }
}

/** Filters need a page: what is drawn through one is drawn without. */
class NoFilters {
  addFilter = () => "none";
  addHCMFilter = () => "none";
  addAlphaFilter = () => "none";
  addLuminosityFilter = () => "none";
  addHighlightHCMFilter = () => "none";
  destroy(): void {}
}

/** Pixels of a picture within a page at most: larger ones are left out. */
const MOST_PIXELS = 40_000_000;

/** Opens a PDF (ISO 32000). Its scripts are never run: nothing here could. */
export const openPdf = (bytes: Uint8Array): Promise<PDFDocumentProxy> =>
  getDocument({
    data: bytes,
    isEvalSupported: false,
    enableXfa: false,
    disableFontFace: true,
    useSystemFonts: false,
    useWorkerFetch: false,
    stopAtErrors: false,
    maxImageSize: MOST_PIXELS,
    // Anything that is true: each is asked for by the name behind it.
    cMapUrl: "own/",
    cMapPacked: true,
    standardFontDataUrl: "own/",
    wasmUrl: "own/",
    BinaryDataFactory: OwnFiles,
    CanvasFactory: OwnCanvases,
    FilterFactory: NoFilters,
    verbosity: 0,
  } as Parameters<typeof getDocument>[0]).promise;

/** Draws a page, counted from 1, no side of it longer than `side`. */
export async function drawPage(document: PDFDocumentProxy, number: number, side: number): Promise<OffscreenCanvas> {
  const page = await document.getPage(number);
  const { width, height } = page.getViewport({ scale: 1 });
  const viewport = page.getViewport({ scale: side / Math.max(width, height) });
  const { canvas, context } = newCanvas(Math.round(viewport.width), Math.round(viewport.height));
  context.fillStyle = "white";
  context.fillRect(0, 0, canvas.width, canvas.height);
  await page.render({ canvas: null, canvasContext: context as unknown as CanvasRenderingContext2D, viewport }).promise;
  page.cleanup();
  return canvas;
}

/** Pages that are searched at most. */
const MOST_SEARCHED = 2000;

/** Numbers of the pages on which all of these words stand, in any case, as far as the text of a page is there to be read. */
export async function pagesWith(document: PDFDocumentProxy, words: string): Promise<number[]> {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const found: number[] = [];
  for (let number = 1; number <= Math.min(document.numPages, MOST_SEARCHED) && wanted.length > 0; number++) {
    const page = await document.getPage(number);
    const { items } = await page.getTextContent();
    const text = items
      .map((item) => ("str" in item ? item.str + (item.hasEOL ? "\n" : "") : ""))
      .join("")
      .toLowerCase();
    if (wanted.every((word) => text.includes(word))) found.push(number);
    page.cleanup();
  }
  return found;
}
