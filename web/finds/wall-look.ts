import { persist } from "zustand/middleware";
import { createStore } from "zustand/vanilla";

/** Pixels of a tile's longer side, the smallest and the largest that the slider gives. */
export const TILE_WIDTH = { least: 100, most: 340, usual: 148, step: 8 } as const;
/** Height of a tile as a part of its width. */
const FLATNESS = 110 / 148;

export const tileHeight = (width: number): number => Math.round(width * FLATNESS);

/** How this person likes to see what was found: kept by the browser, whatever ticket is open. */
export interface WallLook {
  readonly look: "wall" | "list";
  /** Pixels of a tile's width. */
  readonly tile: number;
}

export const wallLook = createStore<WallLook>()(
  persist((): WallLook => ({ look: "wall", tile: TILE_WIDTH.usual }), { name: "jubar wall" }),
);
