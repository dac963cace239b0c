import { keyOf } from "../gathered.ts";
import { isFile, isMime } from "./looks.ts";
import type { MappedAttachment, MappedValue } from "./mapping.ts";
import type { Profile } from "./profile.ts";
import { pointed } from "./steps.ts";
import { joinsOf, type Surveyed, valueAs } from "./survey.ts";

interface FileColumns {
  readonly path: Profile | undefined;
  readonly name: Profile | undefined;
  readonly type: Profile | undefined;
  readonly content: Profile | undefined;
}

const isFull = (profile: Profile) => profile.filled >= 2;

/** Columns that tell of a file: where it lies, what it is called, of what type it is, its bytes. */
function fileColumns(table: Surveyed): FileColumns {
  const types = table.profiles.filter((one) => one.mimes > 0.8 && isFull(one));
  const files = table.profiles.filter((one) => one.files > 0.7 && one.mimes < 0.2 && isFull(one));
  const slashes = (one: Profile) =>
    one.column.values.filter((value) => typeof value === "string" && /[/\\]/.test(value)).length / Math.max(1, one.filled);
  const paths = files.filter((one) => slashes(one) > 0.5);
  const names = files.filter((one) => slashes(one) <= 0.5);
  const longest = (list: Profile[]) => list.sort((a, b) => b.filled - a.filled)[0];
  return {
    path: longest(paths),
    name: longest(names),
    type: longest(types),
    content: longest(table.profiles.filter((one) => one.media > 0.5 && isFull(one))),
  };
}

const isAny = ({ path, name, content }: FileColumns): boolean => path !== undefined || name !== undefined || content !== undefined;

/** Bytes beside a path are a preview of what the path names, but where one stands in place of the other. */
function standsAlone({ path, content }: FileColumns): boolean {
  if (!path || !content) return true;
  const full = content.column.values.flatMap((value, index) =>
    value instanceof Uint8Array && value.length > 0 ? [keyOf(path.column.values[index])] : [],
  );
  return full.filter((key) => key === null).length > full.length * 0.3;
}

const mapped = (alias: string, { path, name, type, content }: FileColumns): MappedAttachment => ({
  ...(path && { path: valueAs(alias, path.column) }),
  ...(name && { name: valueAs(alias, name.column) }),
  ...(type && { type: valueAs(alias, type.column) }),
  ...(content && standsAlone({ path, name, type, content }) && { content: valueAs(alias, content.column) }),
});

/** Where what was sent along is told of: in the messages, in a list inside of them, in a table beside them. */
export function pickAttachments(messages: Surveyed, others: readonly Surveyed[]): MappedAttachment[] {
  const found: MappedAttachment[] = [];
  const own = fileColumns(messages);
  const listed = listsIn(messages);
  found.push(...listed);
  if (isAny(own) && (own.path || own.type)) found.push(mapped("m", own));
  for (const [index, table] of others.entries()) {
    if (table.source === messages.source || table.source.tables.length > 1) continue;
    const files = fileColumns(table);
    if (!isAny(files) || !(files.path || files.type || files.content)) continue;
    const on = linkOf(messages, table);
    if (on) found.push({ table: table.name, on, ...mapped(`file${index}`, files) });
  }
  return found.slice(0, 8);
}

/** How rows about files name messages, or messages name them. */
function linkOf(messages: Surveyed, table: Surveyed): [MappedValue, string] | null {
  let best: { on: [MappedValue, string]; score: number } | null = null;
  const consider = (on: [MappedValue, string], score: number) => {
    if (score > 0.6 && (!best || score > best.score)) best = { on, score };
  };
  for (const own of messages.keys) {
    const index = messages.by(own.column.at);
    for (const key of table.profiles) {
      if (key.column.steps.length > 0 || key.clock || key.filled < key.known * 0.8 || (key.numbers > 0 && key.integers < key.numbers))
        continue;
      if (key.texts > 0.5 && key.prose > 0.2) continue;
      const keys = [...new Set(key.column.values.flatMap((value) => keyOf(value) ?? []))];
      if (keys.length < 2) continue;
      const share = keys.filter((one) => index.has(one)).length / keys.length;
      // How far the numbers reach tells a name of messages from a count of one's own.
      const numbers = keys.map(Number).filter((one) => Number.isFinite(one));
      const most = numbers.length > keys.length / 2 ? Math.max(...numbers) : Number.NaN;
      const reach = Number.isNaN(most) || Number.isNaN(own.most) ? 1 : Math.min(1, most / Math.max(1, own.most));
      const isOwnKey = key.column.at === table.source.tables[0].table.table.rowidColumn || key.column.name === "rowid";
      consider(
        [valueAs("m", own.column), key.column.name],
        share * (0.5 + 0.5 * reach) - (isOwnKey ? 0.05 : 0) + (key.texts > 0.9 ? 0.02 : 0),
      );
    }
  }
  for (const ref of messages.profiles) {
    if (ref.texts < 0.9 || ref.prose > 0.3 || ref.clock || ref.filled < 2) continue;
    const join = joinsOf(ref.column, [table])[0];
    if (join && join.share > 0.8 && ref.distinct > ref.filled * 0.8)
      consider([valueAs("m", ref.column), join.key.column.name], join.share + 0.01);
  }
  return best === null ? null : (best as { on: [MappedValue, string] }).on;
}

/** Lists of files in JSON texts, by what each of their items says. */
function listsIn(messages: Surveyed): MappedAttachment[] {
  return messages.profiles.flatMap((profile): MappedAttachment[] => {
    const last = profile.column.steps.at(-1);
    if (typeof last !== "object" || !("json" in last)) return [];
    const items = profile.column.values.flatMap((value) => itemsOf(value)).slice(0, 300);
    if (items.length < 2) return [];
    const pointers = new Map<string, unknown[]>();
    for (const item of items)
      for (const key of Object.keys(item).slice(0, 30)) pointers.set(`/${key.replaceAll("~", "~0").replaceAll("/", "~1")}`, []);
    for (const [pointer, values] of pointers) for (const item of items) values.push(pointed(item, pointer));
    const of = (looks: (text: string) => boolean) =>
      [...pointers]
        .filter(([, values]) => values.filter((value) => typeof value === "string" && looks(value)).length > values.length * 0.7)
        .map(([pointer]) => pointer);
    const types = of(isMime);
    const files = of((text) => isFile(text) && !isMime(text));
    const paths = files.filter((pointer) =>
      (pointers.get(pointer) ?? []).some((value) => typeof value === "string" && /[/\\]/.test(value)),
    );
    const names = files.filter((pointer) => !paths.includes(pointer));
    if (paths.length === 0 && names.length === 0) return [];
    const at = (pointer: string | undefined): MappedValue | undefined =>
      pointer === undefined ? undefined : { col: "each.item", as: [{ json: pointer }] };
    const [path, name, type] = [at(paths[0]), at(names[0]), at(types[0])];
    return [{ each: valueAs("m", profile.column), ...(path && { path }), ...(name && { name }), ...(type && { type }) }];
  });
}

/** The objects of a list that stands in a JSON text. */
export function itemsOf(value: unknown): Record<string, unknown>[] {
  if (typeof value !== "string" || !value.startsWith("[")) return [];
  try {
    const list: unknown = JSON.parse(value);
    return Array.isArray(list)
      ? list.slice(0, 200).filter((one): one is Record<string, unknown> => typeof one === "object" && one !== null && !Array.isArray(one))
      : [];
  } catch {
    return [];
  }
}
