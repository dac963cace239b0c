import { partsOfFolder } from "../../core/finds/folder-table.ts";
import { type MediumState, type ShownScan, scanOf } from "../session/session-state.ts";

type Volumes = ShownScan["volumes"];

/** What a volume of the storage is called: its number, file system and label. */
export function volumeWords(index: number, volumes: Volumes): string {
  const volume = volumes[index];
  if (!volume) return "outside of any volume";
  const label = volume.label ? ` “${volume.label}”` : "";
  return volumes.length > 1 ? `${index + 1} · ${volume.filesystem}${label}` : `${volume.filesystem}${label}`;
}

/** A volume of a medium by a folder's key: with the medium's name where there are several. */
export function volumeOfKey(key: string, media: readonly MediumState[]): string {
  const { medium, volume } = partsOfFolder(key);
  const state = media.find((one) => one.medium.id === medium);
  const words = volumeWords(volume ?? -1, state ? scanOf(state).volumes : []);
  return media.length > 1 && state ? `${state.medium.name} · ${words}` : words;
}

/** A folder's key in words, as a person would name it. */
export function folderWords(key: string, media: readonly MediumState[]): string {
  const { path } = partsOfFolder(key);
  return path === "" ? volumeOfKey(key, media) : path === "?" ? "no known folder" : path;
}
