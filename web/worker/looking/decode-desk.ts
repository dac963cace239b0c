import type { Coded } from "./codecs.ts";
import { type Decoder, decoderOf, type Player, playerOf, type Reader, readerOf } from "./decodable.ts";
import { drawn } from "./drawing.ts";
import type { InnerPictures } from "./inner-pictures.ts";
import { decodedText } from "./letters.ts";
import { HTML, textOfMarkup } from "./markup.ts";
import { textOfRichText } from "./rich-text.ts";

/** Pictures that no browser decodes, and what decodes them here: each a chunk of its own, loaded when the first of its kind is looked at. */
const PICTURES: Record<Decoder, (bytes: Uint8Array) => Promise<OffscreenCanvas>> = {
  heic: async (bytes) => (await import("./heic.ts")).decodeHeic(bytes),
  tiff: async (bytes) => (await import("./tiff.ts")).decodeTiff(bytes),
  jp2: async (bytes) => (await import("./jpeg2000.ts")).decodeJpeg2000(bytes),
};

const bytesOf = async (film: Blob | string): Promise<Uint8Array> =>
  new Uint8Array(await (typeof film === "string" ? await fetch(film) : film).arrayBuffer());

/** Films and sounds that browsers play in another form. */
const PLAYED: Record<Player["how"], (film: Blob | string) => Promise<Blob>> = {
  speech: async (film) => (await import("./amr.ts")).wavOfAmr(await bytesOf(film)),
  samples: async (film) => (await import("./aiff.ts")).wavOfAiff(await bytesOf(film)),
  transport: async (film) => (await import("./transport.ts")).asMp4(film),
};

/** Documents whose text stands in some markup, and what takes it out. */
const TEXTS: Record<Reader, (bytes: Uint8Array, format: string) => Promise<string>> = {
  office: async (bytes, format) => (await import("./office.ts")).OFFICE_TEXTS[format](bytes),
  page: async (bytes) => textOfMarkup(decodedText(bytes, false), HTML),
  "rich text": async (bytes) => textOfRichText(decodedText(bytes, false)),
  mail: async (bytes) => (await import("./mail.ts")).textOfMail(bytes),
  older: async (bytes, format) => (await import("./older/texts.ts")).textOfOlder(bytes, format),
};

/** Pages of a document. */
export interface DrawnPage {
  readonly picture: Blob;
  readonly pages: number;
}

/** Decodes what people give, which may be made to harm: in a worker that is ended when it takes too long or too much. */
export class DecodeDesk {
  /** A picture, drawn no larger than `side`. */
  async picture(format: string, bytes: Uint8Array, media: string, side: number): Promise<Blob> {
    const decoder = decoderOf(format);
    if (!decoder) throw new Error(`nothing here decodes ${format}`);
    return drawn(await PICTURES[decoder](bytes), media, side);
  }

  /** A frame of a film. Null: what it is coded in is not decoded here. */
  async frame(film: Blob | string, side: number): Promise<Blob | null> {
    const { decodeFrame } = await import("./film-frame.ts");
    const frame = await decodeFrame(film, side);
    return frame && drawn(frame, "image/jpeg", side);
  }

  /** A film or sound in a form that browsers play. @throws where what it is coded in is played by none */
  async played(format: string, film: Blob | string): Promise<Blob> {
    const player = playerOf(format);
    if (!player) throw new Error(`nothing here plays ${format}`);
    return PLAYED[player.how](film);
  }

  /** What a film or sound is coded in, as far as that can be told. */
  async codecs(format: string, film: Blob | string): Promise<Coded[]> {
    return (await import("./codecs.ts")).codecsOf(format, film);
  }

  /** What is written in a document. @throws where nothing here reads such */
  async text(format: string, bytes: Uint8Array): Promise<string> {
    const reader = readerOf(format);
    if (reader === null) throw new Error(`nothing here reads the text of ${format}`);
    return TEXTS[reader](bytes, format);
  }

  /** The pictures that stand in a document, drawn no larger than `side`. */
  async innerPictures(format: string, bytes: Uint8Array, side: number): Promise<InnerPictures> {
    return (await import("./inner-pictures.ts")).innerPictures(format, bytes, side);
  }

  /** The streams of a document of an older form: paths and bytes. */
  async streams(bytes: Uint8Array): Promise<{ path: string; size: number }[]> {
    return (await import("./older/streams.ts")).streamsOf(bytes);
  }

  /** A page of the web, as what only lays its text out. */
  async laidOut(bytes: Uint8Array): Promise<string> {
    return (await import("./safe-page.ts")).safePage(decodedText(bytes, false));
  }

  /** Numbers of the pages of a document on which all of these words stand. */
  async pagesWith(bytes: Uint8Array, words: string): Promise<number[]> {
    const { openPdf, pagesWith } = await import("./pdf.ts");
    const document = await openPdf(bytes);
    try {
      return await pagesWith(document, words);
    } finally {
      await document.destroy();
    }
  }

  /** A page of a document, counted from 1. */
  async page(bytes: Uint8Array, number: number, side: number): Promise<DrawnPage> {
    const { drawPage, openPdf } = await import("./pdf.ts");
    const document = await openPdf(bytes);
    try {
      const page = await drawPage(document, Math.min(number, document.numPages), side);
      return { picture: await drawn(page, "image/jpeg", side), pages: document.numPages };
    } finally {
      await document.destroy();
    }
  }
}
