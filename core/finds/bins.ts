/** Android 11 and later bin a media file by renaming it in place: MediaProvider's `.trashed-<expiry>-<name>`. */
const TRASHED = /^\.trashed-(\d{1,11})-(.+)$/s;

/** @returns the name before it was binned and when its last day ends (milliseconds since 1970), or null */
export function binnedName(name: string): { original: string; lastDay: number } | null {
  const parts = TRASHED.exec(name);
  return parts ? { original: parts[2], lastDay: Number(parts[1]) * 1000 } : null;
}
