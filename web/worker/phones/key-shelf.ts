import { equalBytes } from "../../../core/bytes/equal.ts";
import { type ComputerKey, keyFromPem, makeKey } from "../../../core/phones/adb/keys.ts";
import { database } from "../../kept/database.ts";

const OWN_NAME = "bench@jubar";
let own: Promise<ComputerKey> | null = null;

/** This computer's own key: made once, kept in the browser's database. */
export function ownKey(): Promise<ComputerKey> {
  own ??= database
    .transaction("rw", database.keys, () => database.keys.toArray())
    .then(async (keys) => {
      const kept = keys.find(({ origin }) => origin === "own");
      if (kept) return kept;
      const made = await makeKey(OWN_NAME);
      await database.keys.add(made);
      return made;
    });
  return own;
}

/** All keys that a phone may know: the own one, and those that owners brought. */
export async function allKeys(): Promise<ComputerKey[]> {
  await ownKey();
  return database.keys.toArray();
}

/** @throws UnusableError in plain words for what is no saved key */
export async function bringKey(text: string, name: string): Promise<void> {
  const key = await keyFromPem(text, name);
  const known = (await database.keys.toArray()).some(({ pkcs8 }) => equalBytes(pkcs8, key.pkcs8));
  if (!known) await database.keys.add(key);
}
