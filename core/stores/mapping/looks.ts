/** What a text looks like, whatever column it stands in. */

const MIME = /^(?:application|audio|font|image|message|model|multipart|text|video)\/[\w.+-]{1,80}$/;
const URL_LIKE = /^[a-z][a-z0-9+.-]{1,20}:\/\/\S+$/i;
const FILE = /^(?:[^\n\r\t<>|"]{0,400}[/\\])?[^\n\r\t/\\<>|"]{1,200}\.[A-Za-z][A-Za-z0-9]{1,4}$/;
const HEX_ID = /^[0-9a-f]{8,}$|^[0-9a-f]{8}-[0-9a-f-]{20,}$/i;
const CODE = /^[\w.:+/=@~-]*\d[\w.:+/=@~-]*$/;
const PHONE = /^\+?\(?\d[\d\s().-]{4,20}$/;
const MAIL = /^[^\s@<>()]{1,100}@[^\s@<>()]{1,100}$/;
/** A name on a server of its own, and rooms there: with a colon where mail has an @. */
const AT_SERVER = /^[@!#+$]?[^\s:@<>()/]{1,120}:[A-Za-z0-9-]{1,60}(?:\.[A-Za-z0-9-]{1,60}){0,4}\.[A-Za-z]{2,24}(?::\d{1,5})?$/;
const HANDLE = /^@?[\p{L}\p{N}][\p{L}\p{N}._-]{1,60}$/u;

export const isMime = (text: string): boolean => MIME.test(text);
export const isUrl = (text: string): boolean => URL_LIKE.test(text);
/** Bytes that name something, as keys of 64 to 256 bits do. */
export const isId = ({ length }: Uint8Array): boolean => length >= 8 && length <= 32 && length % 4 === 0;
/** A path or the name of a file. */
export const isFile = (text: string): boolean =>
  FILE.test(text) && !isMail(text) && !AT_SERVER.test(text) && !/\s{2}/.test(text) && !/[.!?。！？]\s/.test(text) && !isMime(text);
export const isPath = (text: string): boolean => isFile(text) && /[/\\]/.test(text);
export const isPhone = (text: string): boolean => PHONE.test(text) && text.replace(/\D/g, "").length >= 6;
export const isMail = (text: string): boolean => MAIL.test(text);
/** Made by a program: a hash, a UUID, a number with letters. */
export const isCode = (text: string): boolean => HEX_ID.test(text) || (CODE.test(text) && text.length >= 6);
/** What a person is reached by: a number, an address, a handle. */
export const isAddress = (text: string): boolean =>
  isPhone(text) || isMail(text) || AT_SERVER.test(text) || (HANDLE.test(text) && /[\d._@-]/.test(text));

const LETTERS = /\p{L}/u;
/** Scripts whose words stand without spaces between them. */
const UNSPACED =
  /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Thai}\p{Script=Lao}\p{Script=Khmer}\p{Script=Myanmar}]{2}/u;
const PICTURED = /\p{Extended_Pictographic}/u;
/** Words: letters with spaces between, or a script without spaces, or signs of feeling. */
export const isProse = (text: string): boolean =>
  (LETTERS.test(text) && /\S\s+\S/.test(text) && !isUrl(text)) || UNSPACED.test(text) || PICTURED.test(text);

/** A name of a person as people write it: few words, no digits and no end of a sentence. */
export function isPersonName(text: string): boolean {
  if (text.length < 2 || text.length > 60 || /[\d?!。！？_@/\\:;=<>{}[\]]/.test(text)) return false;
  const words = text.trim().split(/\s+/);
  if (words.length > 4) return false;
  if (words.length === 1) return UNSPACED.test(text) && text.length <= 6 ? true : /^\p{Lu}/u.test(text);
  return words.every((word) => /^[\p{Lu}\p{Lo}]/u.test(word) || word.length <= 3);
}

/** Bytes that begin as pictures, sounds, films and documents do: contents, not texts (their formats' own magic numbers). */
export function isMedia(bytes: Uint8Array): boolean {
  const head = String.fromCharCode(...bytes.subarray(0, 12));
  if (MAGIC.some((magic) => head.startsWith(magic))) return true;
  return (head.startsWith("RIFF") && bytes.length >= 12) || head.slice(4, 8) === "ftyp";
}
const MAGIC = ["\xff\xd8\xff", "\x89PNG", "GIF8", "OggS", "%PDF", "ID3", "#!AMR", "fLaC", "\0\0\x01\0", "BM", "PK\x03\x04"] as const;
