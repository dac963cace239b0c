import { type CFB$Container, type CFB$ParsingOptions, read } from "cfb";

/** Streams that are listed. */
const MOST = 5000;
/** [MS-CFB] §2.6.1: the kind of an entry that is a stream. */
const STREAM = 2;

/** A stream of a compound file: its path, without the name of the root, and what stands in it. */
export interface Stream {
  readonly path: string;
  readonly bytes: Uint8Array;
}

/** The streams of a compound file ([MS-CFB] §2). @throws for what is none */
export function streamsIn(file: Uint8Array): Stream[] {
  const options: CFB$ParsingOptions = { type: "array" };
  const { FileIndex, FullPaths }: CFB$Container = read(file as unknown as number[], options);
  return FileIndex.flatMap(({ type, size, content }, index) =>
    type === STREAM ? [{ path: nameOf(FullPaths[index]), bytes: Uint8Array.from(content ?? []).subarray(0, size) }] : [],
  ).slice(0, MOST);
}

/** The streams of a compound file: paths and bytes of each. @throws for what is none */
export const streamsOf = (file: Uint8Array): { path: string; size: number }[] =>
  streamsIn(file).map(({ path, bytes }) => ({ path, size: bytes.length }));

/** The stream of this name in the root storage. @throws where there is none */
export function streamNamed(streams: readonly Stream[], ...names: readonly string[]): Uint8Array {
  for (const name of names) {
    const found = streams.find(({ path }) => path === `/${name}`);
    if (found) return found.bytes;
  }
  throw new Error(`it has no stream "${names[0]}": nothing of it can be read`);
}

/** Control characters at the beginning of a name say who made it. */
// biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is taken out
const nameOf = (path: string): string => `/${path.slice(path.indexOf("/") + 1).replace(/[\u0000-\u001f]/g, "")}`;
