import type { MappedValue } from "./mapping.ts";
import type { Column } from "./source.ts";

/** What a column of the messages can be. */
export const ROLES = ["when", "text", "conversation", "sender", "direction", "none"] as const;
export type Role = (typeof ROLES)[number];
export type Scalar = string | number | null;

/** What a person said of a database that is read as messages: what is said is not judged any more, all else is. */
export interface ByHand {
  /** Name of the table of the messages, or of the tables of one shape; null: the likeliest. */
  readonly table: string | null;
  /** What columns are, by their key. Where a column has a part, no other one is taken for it. */
  readonly roles: Readonly<Record<string, Role>>;
  /** Which values of the direction's column came in and went out; null: it is judged. */
  readonly sides: { readonly in: readonly Scalar[]; readonly out: readonly Scalar[] } | null;
}
export const NOTHING_SAID: ByHand = { table: null, roles: {}, sides: null };

/** Why something is read so that a person said. */
export const SAID = "as you said";

/** A column and what is unpacked from it are told apart. */
export const columnKey = ({ name, steps }: Pick<Column, "name" | "steps">): string =>
  steps.length > 0 ? `${name} ${JSON.stringify(steps)}` : name;

/** The key of a column of the messages that a mapping names; null: it is of another table, or none. */
export function keyOfValue(value: MappedValue): string | null {
  if (!("col" in value) || !value.col.startsWith("m.")) return null;
  return columnKey({ name: value.col.slice(2), steps: value.as ?? [] });
}

/** What was said of the columns, for those who pick one. */
export class Said {
  readonly #roles: ReadonlyMap<string, Role>;
  readonly #fixed: ReadonlySet<Role>;
  readonly table: string | null;
  readonly sides: ByHand["sides"];

  constructor({ table, roles, sides }: ByHand) {
    this.table = table;
    this.sides = sides;
    this.#roles = new Map(Object.entries(roles));
    this.#fixed = new Set(Object.values(roles).filter((role) => role !== "none"));
  }

  /** Was anything said at all? */
  get isAny(): boolean {
    return this.table !== null || this.#roles.size > 0;
  }

  /** Was it said which column this is? */
  isFixed(role: Role): boolean {
    return this.#fixed.has(role);
  }

  roleOf(column: Column): Role | null {
    return this.#roles.get(columnKey(column)) ?? null;
  }

  /** May a column be this? What was said to be something else may not, and where another one was said to be it none may. */
  may(column: Column, role: Role): boolean {
    const said = this.roleOf(column);
    return said === null ? !this.#fixed.has(role) : said === role;
  }
}
