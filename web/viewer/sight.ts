/** How a picture is seen: how large, how far from the middle (pixels of the screen), how turned (degrees, clockwise). */
export interface Sight {
  readonly zoom: number;
  readonly x: number;
  readonly y: number;
  readonly turn: number;
}

export const FITTING: Sight = { zoom: 1, x: 0, y: 0, turn: 0 };

const LEAST = 0.2;
const MOST = 64;

/** The same at another size: what lies under the pointer stays there. `at`: the pointer, from the middle. */
export function zoomed(sight: Sight, zoom: number, at: { readonly x: number; readonly y: number }): Sight {
  const next = Math.max(LEAST, Math.min(MOST, zoom));
  const by = next / sight.zoom;
  return { ...sight, zoom: next, x: at.x - (at.x - sight.x) * by, y: at.y - (at.y - sight.y) * by };
}

export const turned = (sight: Sight, by: number): Sight => ({ ...sight, turn: (sight.turn + by + 360) % 360 });
