/** Formats of pictures that no browser decodes, by what decodes them here. */
const DECODERS = { heic: "heic", tiff: "tiff", jp2: "jp2", j2k: "jp2" } as const;

export type Decoder = (typeof DECODERS)[keyof typeof DECODERS];

/** Documents whose text is taken out of their markup here, and those of older forms that nothing here reads. */
const READ_HERE = new Set(["docx", "xlsx", "pptx", "odt", "ods", "odp", "epub", "html", "rtf", "eml"]);
const NOT_READ = new Set(["doc", "xls", "ppt", "msg"]);

/** Where the text of a format is read: taken out of its markup, as it stands, or nowhere. */
export const readerOf = (format: string): "here" | "as it stands" | "none" =>
  READ_HERE.has(format) ? "here" : NOT_READ.has(format) ? "none" : "as it stands";

/** What decodes pictures of this format here. Null: nothing does. */
export const decoderOf = (format: string): Decoder | null => DECODERS[format as keyof typeof DECODERS] ?? null;
