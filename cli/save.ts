import { createReadStream } from "node:fs";
import { mkdir, open, readdir, rm } from "node:fs/promises";
import { dirname, join, resolve } from "node:path";
import { z } from "zod";
import { Contents } from "../core/archives/stream.ts";
import { UnusableError } from "../core/bytes/source.ts";
import { KIND_WORDS, STATES } from "../core/finds/find.ts";
import type { ConversationValues, FoundRecord } from "../core/finds/record.ts";
import type { Item } from "../core/handover/item.ts";
import { freeName } from "../core/handover/names.ts";
import { type Forms as FormsOfPeople, planPeople } from "../core/handover/people/plan.ts";
import { planFiles } from "../core/handover/plan.ts";
import { type Destination, HASH_LIST, writeFiles } from "../core/handover/write.ts";
import { type Command, readArguments, ScanArguments } from "./command.ts";
import { statusOf } from "./exit-status.ts";
import { mappingsOf } from "./mappings.ts";
import { print } from "./print.ts";
import { nodeSha256, runScan } from "./run-scan.ts";

const FORMS = ["vcard4", "vcard3", "csv", "json", "html", "ical"] as const;

const SaveArguments = ScanArguments.extend({
  to: z.string({ error: "name the folder to save into" }),
  state: z
    .string()
    .transform((text) => text.split(","))
    .pipe(z.array(z.enum([...STATES, "hidden", "unclear"])))
    .default([...STATES, "hidden", "unclear"]),
  /** Only items of these formats. */
  format: z
    .string()
    .transform((text) => text.split(","))
    .optional(),
  /** Forms in which people's data is given too: messages, contacts, calls, dates. Without: files alone. */
  as: z
    .string()
    .transform((text) => text.split(","))
    .pipe(z.array(z.enum(FORMS)))
    .optional(),
});

/** Forms by their names here. */
const formsOf = (names: readonly (typeof FORMS)[number][]): FormsOfPeople => ({
  contacts: [
    ...(names.includes("vcard4") ? (["vcard 4.0"] as const) : []),
    ...(names.includes("vcard3") ? (["vcard 3.0"] as const) : []),
    ...(names.includes("csv") ? (["csv"] as const) : []),
    ...(names.includes("json") ? (["json"] as const) : []),
  ],
  messages: names.filter((name) => name === "html" || name === "csv" || name === "json"),
  calls: names.filter((name) => name === "csv" || name === "json"),
  events: names.filter((name) => name === "ical" || name === "csv" || name === "json"),
});

/** A folder of this computer. Files are created, never written over: flag `wx`. */
const folder = (root: string): Destination => ({
  async write(path, pieces) {
    const target = join(root, path);
    await mkdir(dirname(target), { recursive: true });
    const handle = await open(target, "wx");
    try {
      for await (const piece of pieces) await handle.writeFile(piece);
      await handle.sync();
    } catch (cause) {
      // Half a file under its name would pass for the whole one. It is ours: it was created a moment ago.
      await rm(target, { force: true }).catch(() => undefined);
      throw cause;
    } finally {
      await handle.close();
    }
  },
  finish: async () => {},
  readBack: (path) => createReadStream(join(root, path)),
});

/** What a folder holds already: nothing of it is written over. */
const namesIn = (path: string): Promise<string[]> => readdir(path).catch(() => []);

/** Files of what people mean by rows, in the forms that were asked for. */
function peopleFiles(people: readonly FoundRecord[], { as, state }: Pick<z.infer<typeof SaveArguments>, "as" | "state">): Item[] {
  if (!as) return [];
  const chosen = people.filter((one) => state.includes(one.state));
  const talks = people.flatMap(({ id, kind, values }) => {
    if (kind !== "conversation") return [];
    const { title, members = [] } = values as ConversationValues;
    const named = title ?? (members.map(({ name, address }) => name ?? address ?? "").join(", ") || "messages");
    return [[id, { title: named, values: values as ConversationValues }] as const];
  });
  return planPeople(chosen, new Map(talks), formsOf(as), Date.now());
}

export const saveCommand: Command = {
  name: "save",
  usage:
    "save SOURCE --to DIR [--depth quick|deep] [--kinds …] [--state erased,binned,present,hidden,unclear] [--format jpeg,…] [--as vcard4|vcard3|csv|json|html|ical,…]",
  async run(args) {
    const request = readArguments(args, SaveArguments);
    const root = resolve(request.to);
    await mkdir(root, { recursive: true }).catch((cause: NodeJS.ErrnoException) => {
      throw new UnusableError(`${request.to} cannot be made (${cause.code ?? cause.message}).`);
    });
    const there = Object.fromEntries(
      await Promise.all(Object.values(KIND_WORDS).map(async (name) => [name, await namesIn(join(root, name))])),
    );
    const hashList = freeName(HASH_LIST, new Set(await namesIn(root)));
    const people: FoundRecord[] = [];
    const takePeople = (records: readonly FoundRecord[]) => {
      for (const record of records) if (record.kind !== "row" && record.values) people.push(record);
    };
    // What people mean by rows lies in databases, whatever files are asked for.
    const kinds = request.as && request.kinds ? [...new Set([...request.kinds, "database" as const])] : request.kinds;
    const asked = { ...request, kinds, mappings: await mappingsOf(request), ...(request.as && { onRecords: takePeople }) };
    return runScan(asked, async (scanned, source) => {
      const chosen = [...scanned.finds.values()].filter(
        ({ kind, state, format }) =>
          (request.kinds?.includes(kind) ?? true) && request.state.includes(state) && (request.format?.includes(format) ?? true),
      );
      const failed: string[] = [];
      let holed = 0;
      const medium = { source, contents: new Contents(source) };
      const items = [...planFiles(chosen, there), ...peopleFiles(people, request)];
      for await (const event of writeFiles<unknown, Item>(items, () => medium, folder(root), nodeSha256(), hashList)) {
        if (event.type === "no list") failed.push(event.because);
        if (event.type !== "checked") continue;
        const { path, outcome, because, sha256 } = event.file;
        if (outcome === "failed" || outcome === "different") failed.push(because ?? outcome);
        if (outcome === "holes") holed++;
        await print([{ type: "written", path, outcome, because, sha256 }]);
      }
      if (failed.length > 0)
        process.stderr.write(
          `${failed.length === 1 ? "1 file" : `${failed.length} files`} could not be written whole: ${[...new Set(failed)].join("; ")}.\n`,
        );
      if (holed > 0) process.stderr.write(`${holed} files have holes: the medium did not give all of them.\n`);
      return statusOf(scanned) || (failed.length > 0 ? 1 : 0);
    });
  },
};
