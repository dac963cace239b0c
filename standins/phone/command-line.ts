/** A command line taken apart, as far as practice phones know the shell (POSIX.1-2017, Shell Command Language). */

/** One command with where its output goes. */
export interface SimpleCommand {
  readonly words: readonly string[];
  /** Output that is thrown away (`>/dev/null`, `2>/dev/null`), or errors that go where output goes (`2>&1`). */
  readonly quiet: boolean;
  readonly quietErrors: boolean;
  readonly errorsToo: boolean;
  /** When it runs, by how the one before it ended (§2.9.3). */
  readonly after: "always" | "success" | "failure";
}

/** What these shells refuse, in the words that are said then. */
export class RefusedSyntax extends Error {}

/** Pieces of a line: quoted stretches and escapes hold together; operators stand alone (§2.2, §2.10). */
const TOKEN = /\s+|(2>&1|[12]?>\s*\/dev\/null|&&|\|\||[;|&<>()]|[12]?>>?)|((?:"(?:\\.|[^"\\])*"|'[^']*'|\\.|[^\s"'\\;|&<>()])+)/gy;
const MAX_COMMANDS = 100;

/** Takes the quotes off a word (§2.2.1–2.2.3). */
const unquoted = (word: string): string =>
  word.replace(/"((?:\\.|[^"\\])*)"|'([^']*)'|\\(.)/g, (_, double?: string, single?: string, escaped?: string) =>
    double !== undefined ? double.replace(/\\([$`"\\])/g, "$1") : (single ?? escaped ?? ""),
  );

/** Words of a request, without operators. */
export const wordsOf = (line: string): string[] =>
  Array.from(line.matchAll(/(?:"(?:\\.|[^"\\])*"|'[^']*'|\\.|[^\s"'\\])+/g), ([word]) => unquoted(word));

/** @throws RefusedSyntax for what a practice phone's shell does not do */
export function parseLine(line: string): SimpleCommand[] {
  const commands: SimpleCommand[] = [];
  let words: string[] = [];
  let flags = { quiet: false, quietErrors: false, errorsToo: false };
  let after: SimpleCommand["after"] = "always";
  const end = (next: SimpleCommand["after"]) => {
    if (words.length > 0) commands.push({ words, ...flags, after });
    else if (next !== "always") throw new RefusedSyntax("syntax error: a command is missing");
    if (commands.length > MAX_COMMANDS) throw new RefusedSyntax("too many commands in one line");
    words = [];
    flags = { quiet: false, quietErrors: false, errorsToo: false };
    after = next;
  };
  TOKEN.lastIndex = 0;
  while (TOKEN.lastIndex < line.length) {
    const at = TOKEN.lastIndex;
    const match = TOKEN.exec(line);
    if (!match) throw new RefusedSyntax(`syntax error: no closing quote from ${line.slice(at, at + 20)} on`);
    const [, operator, word] = match;
    if (word !== undefined) {
      if (/[$`]/.test(word.replace(/'[^']*'|\\./g, "")) && word !== "$?")
        throw new RefusedSyntax(`${word}: practice phones expand nothing`);
      words.push(word === "$?" ? STATUS : unquoted(word));
    } else if (operator === ";") end("always");
    else if (operator === "&&") end("success");
    else if (operator === "||") end("failure");
    else if (operator === "2>&1") flags.errorsToo = true;
    else if (operator?.startsWith("2>") && operator.endsWith("/dev/null")) flags.quietErrors = true;
    else if (operator?.endsWith("/dev/null")) flags.quiet = true;
    else if (operator === "|") throw new RefusedSyntax("practice phones have no pipes: do that on the computer");
    else if (operator !== undefined)
      throw new RefusedSyntax(`${operator}: practice phones have no such thing: nothing is written, nothing runs in the background`);
  }
  if (words.length > 0 || after !== "always") end("always");
  return commands;
}

/** Stands for `$?` among the words: the status of the command before. */
export const STATUS = "\0status";
