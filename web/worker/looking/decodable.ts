/** Formats of pictures that no browser decodes, by what decodes them here. */
const DECODERS = { heic: "heic", tiff: "tiff", jp2: "jp2", j2k: "jp2" } as const;

export type Decoder = (typeof DECODERS)[keyof typeof DECODERS];

/** What decodes pictures of this format here. Null: nothing does. */
export const decoderOf = (format: string): Decoder | null => DECODERS[format as keyof typeof DECODERS] ?? null;
