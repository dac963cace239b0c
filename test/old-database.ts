import { readFileSync } from "node:fs";
import { gunzipSync } from "node:zlib";

/** A browser's database as an earlier version kept it: dumped from Chromium with tickets in many states. */
interface Dump {
  readonly version: number;
  readonly stores: readonly {
    readonly name: string;
    readonly keyPath: string | string[];
    readonly auto: boolean;
    readonly indexes: readonly string[];
  }[];
  readonly tables: Readonly<Record<string, readonly unknown[]>>;
}

const alive = (value: unknown): unknown => {
  if (Array.isArray(value)) return value.map(alive);
  if (typeof value !== "object" || value === null) return value;
  if ("$bytes" in value) return new Uint8Array(Buffer.from(String(value.$bytes), "base64"));
  return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, alive(one)]));
};

export const oldDatabase = (version: number): Dump =>
  alive(JSON.parse(gunzipSync(readFileSync(`test/kept/version-${version}.json.gz`)).toString())) as Dump;

/** Makes it, as that version left it. */
export async function restoreDatabase({ version, stores, tables }: Dump): Promise<void> {
  await new Promise<void>((done, failed) => {
    const opening = indexedDB.open("jubar", version);
    opening.onupgradeneeded = () => {
      for (const { name, keyPath, auto, indexes } of stores) {
        const store = opening.result.createObjectStore(name, { keyPath, autoIncrement: auto });
        for (const index of indexes) store.createIndex(index, index);
        for (const row of tables[name]) store.put(row);
      }
    };
    opening.onsuccess = () => {
      opening.result.close();
      done();
    };
    opening.onerror = () => failed(opening.error);
  });
}
