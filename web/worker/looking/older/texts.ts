import { textOfLetter } from "./letter.ts";
import { textOfMailItem } from "./mail-item.ts";
import { textOfSheets } from "./sheets.ts";
import { textOfSlides } from "./slides.ts";
import { type Stream, streamsIn } from "./streams.ts";

const READERS: Readonly<Record<string, (streams: readonly Stream[]) => string>> = {
  doc: textOfLetter,
  xls: textOfSheets,
  ppt: textOfSlides,
  msg: textOfMailItem,
};

/** What is written in a document of an older form, by its format. @throws where it is encrypted, or cannot be read */
export const textOfOlder = (bytes: Uint8Array, format: string): string => READERS[format](streamsIn(bytes));
