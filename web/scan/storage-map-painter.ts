import { Cell } from "../../core/scan/storage-map.ts";

/** What is drawn of a medium. */
export interface MapPicture {
  readonly size: number;
  readonly cells: Uint8Array;
  readonly strokes: Uint16Array;
  /** Byte where reading is now, or null. */
  readonly lamp: number | null;
}

/** Lines of the page that the medium is read as. */
export const LINES = 12;
const BAND = 6;
const STROKE_AREA = 13;

/** Draws the storage map on a canvas: a thin band per line, erased finds as ink strokes above it, the lamp where reading is. */
export class StorageMapPainter {
  readonly #canvas: HTMLCanvasElement;
  #picture: MapPicture | null = null;
  #volumes: readonly number[] = [];
  readonly #resized: ResizeObserver;

  constructor(canvas: HTMLCanvasElement) {
    this.#canvas = canvas;
    this.#resized = new ResizeObserver(() => this.#paint());
    this.#resized.observe(canvas);
  }

  /** `volumes`: where each begins, in bytes. */
  draw(picture: MapPicture | null, volumes: readonly number[]): void {
    this.#picture = picture;
    this.#volumes = volumes;
    this.#paint();
  }

  close(): void {
    this.#resized.disconnect();
  }

  /** The cell under a point of the canvas (CSS pixels), or null. */
  cellAt(x: number, y: number): number | null {
    const { clientWidth, clientHeight } = this.#canvas;
    if (!this.#picture || x < 0 || y < 0 || x >= clientWidth || y >= clientHeight) return null;
    const perLine = this.#picture.cells.length / LINES;
    return Math.floor((y / clientHeight) * LINES) * perLine + Math.min(perLine - 1, Math.floor((x / clientWidth) * perLine));
  }

  #paint(): void {
    const { clientWidth: width, clientHeight: height } = this.#canvas;
    const scale = devicePixelRatio;
    this.#canvas.width = Math.round(width * scale);
    this.#canvas.height = Math.round(height * scale);
    const context = this.#canvas.getContext("2d");
    if (!context || width === 0) return;
    context.scale(scale, scale);
    const style = getComputedStyle(this.#canvas);
    const colour = (name: string) => style.getPropertyValue(name);
    const lineHeight = height / LINES;
    const picture = this.#picture;
    if (!picture) {
      context.fillStyle = colour("--color-base-300");
      for (let line = 0; line < LINES; line++) context.fillRect(0, line * lineHeight + STROKE_AREA, width, BAND);
      return;
    }
    const perLine = picture.cells.length / LINES;
    const cellWidth = width / perLine;
    const fills = { [Cell.used]: colour("--band"), [Cell.free]: colour("--color-base-300"), [Cell.searched]: colour("--glow") };
    for (let cell = 0; cell < picture.cells.length; cell++) {
      const x = Math.round((cell % perLine) * cellWidth);
      const across = Math.round(((cell % perLine) + 1) * cellWidth) - x;
      const y = Math.floor(cell / perLine) * lineHeight;
      const kind = picture.cells[cell];
      if (kind === Cell.unreadable) this.#hatch(context, x, y + 2, cellWidth, STROKE_AREA + BAND, colour("--color-error"));
      else {
        context.fillStyle = fills[kind as 0 | 1 | 2];
        context.fillRect(x, y + STROKE_AREA, across, BAND);
        if (kind === Cell.searched) {
          context.globalAlpha = 0.55;
          context.fillStyle = colour("--color-accent");
          context.fillRect(x, y + STROKE_AREA, across, 1);
          context.fillRect(x, y + STROKE_AREA + BAND - 1, across, 1);
          context.globalAlpha = 1;
        }
      }
      const strokes = picture.strokes[cell];
      if (strokes === 0) continue;
      context.fillStyle = colour("--color-primary");
      const tall = Math.min(STROKE_AREA - 2, 4 + 2 * strokes);
      context.fillRect(x + cellWidth / 2 - 1.5, y + STROKE_AREA - tall - 1, 3, tall);
    }
    if (this.#volumes.length > 1)
      for (const [index, start] of this.#volumes.entries()) {
        const at = Math.min(picture.cells.length - 1, Math.floor((start / picture.size) * picture.cells.length));
        this.#begin(
          context,
          (at % perLine) * cellWidth,
          Math.floor(at / perLine) * lineHeight,
          String(index + 1),
          colour("--color-base-content"),
        );
      }
    if (picture.lamp === null) return;
    const at = Math.min(picture.cells.length - 1, Math.floor((picture.lamp / picture.size) * picture.cells.length));
    this.#lamp(
      context,
      (at % perLine) * cellWidth,
      Math.floor(at / perLine) * lineHeight + STROKE_AREA + BAND / 2,
      colour("--color-accent"),
      colour("--color-base-content"),
    );
  }

  /** Where a volume begins: a post with its number. */
  #begin(context: CanvasRenderingContext2D, x: number, y: number, number: string, ink: string): void {
    context.fillStyle = ink;
    context.fillRect(x, y + 1, 1.5, STROKE_AREA + BAND);
    context.font = "bold 11px sans-serif";
    context.fillText(number, x + 4, y + 10);
  }

  #hatch(context: CanvasRenderingContext2D, x: number, y: number, width: number, height: number, colour: string): void {
    context.save();
    context.beginPath();
    context.rect(x, y, Math.max(width, 5), height);
    context.clip();
    context.strokeStyle = colour;
    context.strokeRect(x + 0.5, y + 0.5, Math.max(width, 5) - 1, height - 1);
    for (let offset = -height; offset < width + height; offset += 4) {
      context.beginPath();
      context.moveTo(x + offset, y + height);
      context.lineTo(x + offset + height, y);
      context.stroke();
    }
    context.restore();
  }

  #lamp(context: CanvasRenderingContext2D, x: number, y: number, glow: string, ink: string): void {
    const light = context.createRadialGradient(x, y, 2, x, y, 36);
    light.addColorStop(0, glow);
    // The same colour without opacity: fading to plain "transparent" would pass through grey.
    light.addColorStop(1, `${glow.trim()}00`);
    context.globalAlpha = 0.8;
    context.fillStyle = light;
    context.fillRect(x - 36, y - 36, 72, 72);
    context.globalAlpha = 1;
    context.fillStyle = ink;
    context.fillRect(x - 1.5, y - 9, 3, 18);
  }
}
