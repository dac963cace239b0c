import { readFile } from "node:fs/promises";
import { UnusableError } from "../core/bytes/source.ts";
import { type Mapping, MappingSchema } from "../core/stores/mapping/mapping.ts";
import { SHIPPED } from "../core/stores/mapping/shipped.ts";

/** How messengers are read: by files that are named, then by what is shipped; by their shape alone where that is asked for. @throws UnusableError */
export async function mappingsOf({
  mapping,
  "without-mappings": without,
}: {
  mapping: string[];
  "without-mappings": boolean;
}): Promise<Mapping[]> {
  const own = await Promise.all(mapping.map(readMapping));
  return without ? own : [...own, ...SHIPPED];
}

async function readMapping(path: string): Promise<Mapping> {
  let content: unknown;
  try {
    content = JSON.parse(await readFile(path, "utf8"));
  } catch (cause) {
    throw new UnusableError(`${path} cannot be read as a mapping (${cause instanceof Error ? cause.message : String(cause)}).`);
  }
  const checked = MappingSchema.safeParse(content);
  if (checked.success) return checked.data;
  const [{ path: at, message }] = checked.error.issues;
  throw new UnusableError(`${path} is no mapping: ${at.join(".") || "it"}: ${message}.`);
}
