import { CALENDAR } from "./calendar.ts";
import { CALLS } from "./calls.ts";
import { CONTACTS } from "./contacts.ts";
import { MEDIA_LIST } from "./media-list.ts";
import type { Store } from "./store.ts";
import { TELEPHONY } from "./telephony.ts";

/** The databases of the system's own providers that are read as people's data, by the shape of their tables. */
export const STORES: readonly Store[] = [CONTACTS, TELEPHONY, CALLS, CALENDAR, MEDIA_LIST];
