/**
 * Why something could not be written, in plain words: by the names of the W3C's DOMException (Web IDL §2.8.1) and the codes of
 * POSIX.1-2017 <errno.h>.
 */
const WORDS: Readonly<Record<string, string>> = {
  ENOSPC: "there is no room left where it goes",
  EDQUOT: "there is no room left where it goes",
  QuotaExceededError: "there is no room left where it goes",
  EFBIG: "it is larger than a file may be where it goes",
  EROFS: "the place may only be read",
  EACCES: "this folder may not be written to",
  EPERM: "this folder may not be written to",
  NotAllowedError: "this folder may not be written to",
  NoModificationAllowedError: "this folder may not be written to",
  ENAMETOOLONG: "its name is too long where it goes",
  ENOENT: "the folder is gone",
  NotFoundError: "the folder is gone",
  EIO: "the place where it goes does not answer",
};

export function whyNot(cause: unknown): string {
  if (!(cause instanceof Error)) return String(cause);
  const code = (cause as { code?: unknown }).code;
  return (typeof code === "string" ? WORDS[code] : undefined) ?? WORDS[cause.name] ?? cause.message;
}

/** Is it the room that is lacking? */
export const isFull = (because: string | null): boolean => because === WORDS.ENOSPC;
