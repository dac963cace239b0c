import { type ParseArgsConfig, parseArgs } from "node:util";
import { z } from "zod";
import { UnusableError } from "../core/bytes/source.ts";
import { KINDS } from "../core/finds/find.ts";

/** One word of the terminal interface. `run` answers the exit status. */
export interface Command {
  readonly name: string;
  readonly usage: string;
  run(args: string[]): Promise<number>;
}

const list = <const T extends readonly [string, ...string[]]>(names: T) =>
  z
    .string()
    .transform((text) => text.split(","))
    .pipe(z.array(z.enum(names)));

/** Options that scan and save share. */
export const ScanArguments = z.object({
  depth: z.enum(["quick", "deep"]).default("deep"),
  kinds: list(KINDS).nullable().default(null),
  "erased-only": z.boolean().default(false),
  faults: z.string().optional(),
  /** The owner's passphrase of an encrypted backup. */
  passphrase: z.string().optional(),
  /** Files that say how a messenger's tables are read. */
  mapping: z.array(z.string()).default([]),
  "without-mappings": z.boolean().default(false),
});

/** Takes a command line apart into words and options. @throws UnusableError in one sentence for an option that is none */
export function readWords<const T extends NonNullable<ParseArgsConfig["options"]>>(args: string[], options: T) {
  try {
    return parseArgs({ args, options, allowPositionals: true, strict: true });
  } catch (cause) {
    throw new UnusableError(cause instanceof Error ? cause.message.split(". ")[0] : String(cause));
  }
}

/** Options that stand by themselves, and those that may be given several times. */
const FLAGS: ReadonlySet<string> = new Set(["without-mappings", "erased-only"]);
const LISTS: ReadonlySet<string> = new Set(["mapping"]);

/** Reads one positional argument, the source, and the options of a schema. @throws UnusableError in one sentence */
export function readArguments<T extends z.ZodObject>(args: string[], schema: T): { source: string } & z.infer<T> {
  const options: NonNullable<ParseArgsConfig["options"]> = Object.fromEntries(
    Object.keys(schema.shape).map((name) => [
      name,
      { type: FLAGS.has(name) ? "boolean" : "string", ...(LISTS.has(name) && { multiple: true }) },
    ]),
  );
  const parsed = readWords(args, options);
  const [source, ...more] = parsed.positionals;
  if (!source) throw new UnusableError("Name the image that is to be scanned.");
  if (more.length > 0) throw new UnusableError(`Only one source can be scanned at a time; ${more[0]} is one too many.`);
  const checked = schema.safeParse(parsed.values);
  if (!checked.success) throw new UnusableError(`--${String(checked.error.issues[0].path[0])}: ${checked.error.issues[0].message}`);
  return { source, ...checked.data };
}
