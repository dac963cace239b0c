/** Where a find is kept: its pack, and its place in that. */
export interface KeptAt {
  readonly medium: number;
  readonly pack: number;
  readonly position: number;
}

/** What a find of a ticket is known by: the medium's number, and the find's own id there. */
export const findKey = (medium: number, id: string): string => `${medium}:${id}`;
export function partsOfKey(key: string): { medium: number; id: string } {
  const colon = key.indexOf(":");
  return { medium: Number(key.slice(0, colon)), id: key.slice(colon + 1) };
}
