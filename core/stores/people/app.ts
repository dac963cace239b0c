import { findKey } from "../../finds/find-key.ts";

/**
 * What reads an app's conversations, by which they are told apart: a mapping of its own or the system's store by its name, the database that was read as
 * it looks by its key, or "export".
 */
export const appOf = ({
  store,
  medium,
  database,
}: {
  readonly store?: string;
  readonly medium: number;
  readonly database: string | null;
}): string => (store === "proposed" && database !== null ? findKey(medium, database) : store || "export");
