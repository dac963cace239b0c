import type { ContactValues } from "../finds/record.ts";
import { type Gathered, keyOf, type StoreRow, type StoreTable } from "./gathered.ts";
import { known } from "./store.ts";

/** Which contacts a phone shows, and why it does not show the others. */
export class Showing {
  readonly #groups: StoreTable | null;
  readonly #accounts: StoreTable | null;
  readonly #settings: StoreTable | null;
  readonly #visible: StoreTable | null;
  readonly #contacts: StoreTable | null;

  constructor(gathered: Gathered) {
    this.#groups = gathered.table("groups", "group_visible");
    this.#accounts = gathered.table("accounts", "account_name");
    this.#settings = gathered.table("settings", "ungrouped_visible");
    this.#visible = gathered.table("visible_contacts", "_id");
    this.#contacts = gathered.table("contacts", "in_visible_group");
  }

  /** @returns null where it is shown, or nothing says that it is not */
  hiddenBy(raw: StoreTable, row: StoreRow, groups: readonly string[]): ContactValues["hiddenBy"] | null {
    if (this.#isShown(raw, row, groups)) return null;
    const accountRow = this.#accounts?.first("_id", raw.get(row, "account_id"));
    const account = (accountRow && this.#accounts?.text(accountRow, "account_name")) ?? raw.text(row, "account_name");
    const isSim = accountRow !== undefined && this.#accounts?.number(accountRow, "sim_slot_index") !== undefined;
    const group = groups.flatMap((id) => {
      const one = this.#groups?.first("_id", id);
      return one && this.#groups?.number(one, "group_visible") === 0 ? (this.#groups?.text(one, "title") ?? []) : [];
    })[0];
    return known({ account, group, ...(isSim && { sim: true }) });
  }

  #isShown(raw: StoreTable, row: StoreRow, groups: readonly string[]): boolean {
    const contact = raw.get(row, "contact_id");
    if (keyOf(contact) === null) return true;
    if (this.#visible?.rows.some(({ isThere }) => isThere)) return this.#visible.first("_id", contact)?.isThere === true;
    const own = this.#contacts?.first("_id", contact);
    if (own?.isThere) return this.#contacts?.number(own, "in_visible_group") !== 0;
    return this.#isShownByRule(raw, row, groups);
  }

  /** Where the provider's own list is lost, its rule: a shown group, or an account whose ungrouped contacts are shown, or none. */
  #isShownByRule(raw: StoreTable, row: StoreRow, groups: readonly string[]): boolean {
    const known = groups.flatMap((id) => this.#groups?.first("_id", id) ?? []);
    if (known.length > 0) return known.some((one) => this.#groups?.number(one, "group_visible") !== 0);
    const account = this.#accounts?.first("_id", raw.get(row, "account_id"));
    const name = (account && this.#accounts?.text(account, "account_name")) ?? raw.text(row, "account_name");
    if (name === undefined) return true;
    const setting = this.#settings?.first("account_name", name);
    return !setting || this.#settings?.number(setting, "ungrouped_visible") !== 0;
  }
}
