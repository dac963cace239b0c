/** Media types of pictures that browsers decode (HTML §4.8.4.3 leaves them free; these are what Chromium takes). */
const BROWSERS_OWN = new Set([
  "image/jpeg",
  "image/png",
  "image/gif",
  "image/webp",
  "image/bmp",
  "image/avif",
  "image/x-icon",
  "image/jxl",
]);

export const isBrowsersOwn = (media: string | null): media is string => media !== null && BROWSERS_OWN.has(media);

/** Formats of pictures that no browser decodes, by what decodes them here. */
const DECODERS = { heic: "heic", tiff: "tiff", jp2: "jp2", j2k: "jp2" } as const;

export type Decoder = (typeof DECODERS)[keyof typeof DECODERS];

/** Documents whose text is taken out of their markup, by what does that here. */
const READERS = {
  docx: "office",
  xlsx: "office",
  pptx: "office",
  odt: "office",
  ods: "office",
  odp: "office",
  epub: "office",
  html: "page",
  rtf: "rich text",
  eml: "mail",
  doc: "older",
  xls: "older",
  ppt: "older",
  msg: "older",
} as const;

export type Reader = (typeof READERS)[keyof typeof READERS];

/** What reads the text of a format here. Null: nobody need, it stands there as it is. */
export const readerOf = (format: string): Reader | null => READERS[format as keyof typeof READERS] ?? null;

/** Documents in which pictures stand that are shown, by what reads them. */
const WITH_PICTURES: ReadonlySet<Reader | null> = new Set<Reader>(["office", "older", "mail"]);

/** May pictures stand in documents of this format, that can be got at here? */
export const holdsPictures = (format: string): boolean => WITH_PICTURES.has(readerOf(format));

/** What decodes pictures of this format here. Null: nothing does. */
export const decoderOf = (format: string): Decoder | null => DECODERS[format as keyof typeof DECODERS] ?? null;

/** Films and sounds that browsers play once they are put into another form, by what does that here, and the bytes of them that are taken at most. */
const PLAYERS = {
  amr: { how: "speech", most: 12 * 1024 * 1024 },
  aiff: { how: "samples", most: 128 * 1024 * 1024 },
  ts: { how: "transport", most: 256 * 1024 * 1024 },
} as const;

export type Player = (typeof PLAYERS)[keyof typeof PLAYERS];

/** What makes a film or sound of this format one that browsers play. Null: they play it as it is, or nothing does. */
export const playerOf = (format: string): Player | null => PLAYERS[format as keyof typeof PLAYERS] ?? null;
