import { pieceOf } from "../../core/medium/pieces.ts";
import type { Offered } from "./offered.ts";

/** What lies beside a database and belongs to it. */
const BESIDE = /-(wal|journal)$/;

/**
 * Several files that were put on the bench at once, as the one medium that they are: the pieces of an image, or a database with its log and journal.
 * @returns a sentence where they are several things
 */
export function together(offered: readonly Offered[]): Offered | string {
  if (offered.length === 1) return offered[0];
  const files = offered.flatMap(({ grant }) => (grant.kind === "file" ? [grant.file] : []));
  const names = files.map(({ name }) => name);
  const pieces = names.map(pieceOf);
  const isImage = pieces.every((one) => one !== null && one.whole === pieces[0]?.whole);
  const [database] = names.filter((name) => !BESIDE.test(name));
  const isDatabase = database !== undefined && names.every((name) => name === database || name.replace(BESIDE, "") === database);
  if (files.length !== offered.length || !(isImage || isDatabase))
    return `${offered.length} things were put here at once, and they are not one medium (${names.slice(0, 3).join(", ")}${names.length > 3 ? " …" : ""}). Put them here one after the other: each is a medium of its own.`;
  return { grant: { kind: "together", name: isImage ? (pieces[0]?.whole ?? database) : database, files } };
}
