/**
 * What Jubar itself puts into a copy of a phone's shared storage: what the system's own providers told, as JSON. It is read as records of
 * people, and is no find: nobody lost it, and its day is the day of the copy.
 */
export const ASKED_FOLDER = "asked of the phone";

export const isOwnFile = (path: string | null): boolean => path?.startsWith(`/${ASKED_FOLDER}/`) ?? false;
