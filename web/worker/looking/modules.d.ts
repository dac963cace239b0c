/** Packages without types of their own: what of them is used here. */
declare module "libheif-js/libheif-wasm/libheif-bundle.mjs" {
  const open: () => Promise<unknown>;
  export default open;
}

declare module "pdfjs-dist/image_decoders/pdf.image_decoders.mjs" {
  export const JpxImage: {
    setOptions(options: { handler: object; useWasm: boolean; useWorkerFetch: boolean; wasmUrl: string | null }): void;
    parseImageProperties(bytes: Uint8Array): { width: number; height: number; componentsCount: number };
    decode(bytes: Uint8Array, options: { numComponents: number }): Promise<Uint8ClampedArray>;
  };
}

declare module "pdfjs-dist/build/pdf.worker.mjs" {
  export const WorkerMessageHandler: object;
}

declare module "web-amr/dist/vendor/amrnb.js" {
  export const AMR: { _decode(amr: Uint8Array): Int16Array | null };
}
