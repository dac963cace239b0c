/** What a page is in the database as a reader sees it. */
export const Role = { none: 0, tree: 1, trunk: 2, free: 3, overflow: 4 } as const;
export type Role = (typeof Role)[keyof typeof Role];

/** What each page is, and whose. Pages behind the end of the main file (they are in the log only) are kept apart: their numbers may be any. */
export class PageLedger {
  readonly #roles: Uint8Array;
  readonly #owners: Int32Array;
  readonly #beyond = new Map<number, { role: Role; owner: number }>();

  constructor(mainPages: number) {
    this.#roles = new Uint8Array(mainPages + 1);
    this.#owners = new Int32Array(mainPages + 1).fill(-1);
  }

  roleOf(page: number): Role {
    return page < this.#roles.length ? (this.#roles[page] as Role) : (this.#beyond.get(page)?.role ?? Role.none);
  }

  /** Index of the table that the page belongs to, or -1. */
  ownerOf(page: number): number {
    return page < this.#roles.length ? this.#owners[page] : (this.#beyond.get(page)?.owner ?? -1);
  }

  /** Takes a page for a role. @returns false where it has one already: a page is one thing only */
  take(page: number, role: Role, owner = -1): boolean {
    if (this.roleOf(page) !== Role.none) return false;
    if (page < this.#roles.length) {
      this.#roles[page] = role;
      this.#owners[page] = owner;
    } else this.#beyond.set(page, { role, owner });
    return true;
  }
}
