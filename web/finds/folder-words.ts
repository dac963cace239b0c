import type { ScanRecord } from "../kept/job.ts";

type Volumes = ScanRecord["volumes"];

/** What a volume of the storage is called: its number, file system and label. */
export function volumeWords(index: number, volumes: Volumes): string {
  const volume = volumes[index];
  if (!volume) return "outside of any volume";
  const label = volume.label ? ` “${volume.label}”` : "";
  return volumes.length > 1 ? `${index + 1} · ${volume.filesystem}${label}` : `${volume.filesystem}${label}`;
}

/** A folder's key in words, as a person would name it. */
export function folderWords(key: string, volumes: Volumes): string {
  const bar = key.indexOf("|");
  const path = key.slice(bar + 1);
  if (path === "") return volumeWords(bar === 0 ? -1 : Number(key.slice(0, bar)), volumes);
  return path === "?" ? "no known folder" : path;
}
