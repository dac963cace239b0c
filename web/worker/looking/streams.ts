import { type CFB$Container, type CFB$ParsingOptions, read } from "cfb";

/** Streams that are listed. */
const MOST = 5000;

/** The streams of a compound file ([MS-CFB] §2): paths and bytes of each. @throws for what is none */
export function streamsOf(bytes: Uint8Array): { path: string; size: number }[] {
  const options: CFB$ParsingOptions = { type: "array" };
  const { FileIndex, FullPaths }: CFB$Container = read(bytes as unknown as number[], options);
  return FileIndex.flatMap(({ type, size }, index) => (type === STREAM ? [{ path: nameOf(FullPaths[index]), size }] : [])).slice(0, MOST);
}

const STREAM = 2;
/** Without the name of the root; control characters at the beginning of a name say who made it. */
// biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is taken out
const nameOf = (path: string): string => `/${path.slice(path.indexOf("/") + 1).replace(/[\u0000-\u001f]/g, "")}`;
