export type Kind = "photo" | "video" | "audio" | "document" | "archive" | "database" | "app" | "other";

/** How a content of a format can be looked at: the name of a way of showing it, which whoever shows it knows. */
export type Preview = "image" | "video" | "sound" | "text" | "pages" | "list" | "letters";

/** How the files in it are got at: the name of a way of opening (core/archives/open.ts). */
export type Opening = "zip" | "tar" | "app backup" | "gzip";

/** What contents of one format are called and how they are handled, whatever tells that they are of it. */
export interface Format {
  readonly name: string;
  readonly kind: Kind;
  /** Endings of names that promise it, without a dot, in small letters. The first one is given to a file without a name. */
  readonly endings: readonly string[];
  readonly preview: Preview | null;
  /** Media type (IANA) under which a browser takes it. */
  readonly media: string | null;
  /** Are records read from it, and how: rows of a database, entries of an export? */
  readonly holds: "rows" | "entries" | null;
  /** Are there files in it, each a find of its own, and how are they got at? */
  readonly opens: Opening | null;
}

/** A format. Endings default to its name. */
export const format = (name: string, kind: Kind, more: Partial<Omit<Format, "name" | "kind">> = {}): Format => ({
  name,
  kind,
  endings: [name],
  preview: null,
  media: null,
  holds: null,
  opens: null,
  ...more,
});

/** A picture, a video, a sound: what a browser is told that it is. */
export const picture = (name: string, media: string, endings: readonly string[] = [name]): Format =>
  format(name, "photo", { endings, preview: "image", media });
export const film = (name: string, media: string, endings: readonly string[] = [name]): Format =>
  format(name, "video", { endings, preview: "video", media });
export const sound = (name: string, media: string, endings: readonly string[] = [name]): Format =>
  format(name, "audio", { endings, preview: "sound", media });
/** Something that is read: as text, or page by page. */
export const written = (name: string, preview: "text" | "pages", media: string, endings: readonly string[] = [name]): Format =>
  format(name, "document", { endings, preview, media });
/** Something that holds others. */
export const packed = (name: string, media: string, endings: readonly string[] = [name], opens: Opening | null = null): Format =>
  format(name, "archive", { endings, preview: "list", media, opens });
