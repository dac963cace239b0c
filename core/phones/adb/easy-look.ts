import type { Adb } from "@yume-chan/adb";
import { binnedName } from "../../finds/bins.ts";
import type { ProviderRow } from "./printed-rows.ts";
import { mainQuery } from "./provider-queries.ts";
import { askProvider } from "./providers.ts";

/** What lies in the easy places of an attached phone: minutes, no risk, nothing changed. */
export interface EasyLook {
  /** Things in bins, the one that goes first first. Last days in milliseconds since 1970, null where none is told. */
  readonly binned: readonly { readonly name: string; readonly lastDay: number | null }[];
  /** Contacts that the address book does not show, by name; null where the phone does not tell. */
  readonly hidden: readonly string[] | null;
  readonly contacts: number | null;
}

const NAME = "vnd.android.cursor.item/name";

/** A row of the media list that is in a bin: by its mark, or by its name (Android 11 and later: `.trashed-<expiry>-<name>`). */
function binnedOf({ _data: path, is_trashed: trashed, date_expires: expires }: ProviderRow): EasyLook["binned"] {
  const name = path?.slice(path.lastIndexOf("/") + 1) ?? "unnamed";
  const bin = binnedName(name);
  if (!bin && trashed !== "1") return [];
  const told = typeof expires === "string" ? Number(expires) * 1000 : (bin?.lastDay ?? null);
  return [{ name: bin?.original ?? name, lastDay: Number.isFinite(told) ? told : null }];
}

/** Looks into the bins and the address book by the system's own providers. @throws Error when the connection ends */
export async function lookAtEasyPlaces(adb: Adb): Promise<EasyLook> {
  const media = (await askProvider(adb, mainQuery("media"))) ?? [];
  const people = await askProvider(adb, mainQuery("contacts"));
  const names = people?.filter(({ mimetype }) => mimetype === NAME) ?? null;
  const soonest = (one: { lastDay: number | null }) => one.lastDay ?? Number.POSITIVE_INFINITY;
  return {
    binned: media.flatMap(binnedOf).sort((a, b) => soonest(a) - soonest(b)),
    hidden: names?.filter((row) => row.in_visible_group === "0").map((row) => row.display_name ?? "unnamed") ?? null,
    contacts: names?.length ?? null,
  };
}
