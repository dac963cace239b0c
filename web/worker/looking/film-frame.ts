import { CanvasSink } from "mediabunny";
import { type Film, inputOf } from "./transport.ts";

/** Part of a film's length at which a frame tells most: its first one is often black. */
const INTO = 0.1;
/** Seconds into a film at most. */
const MOST_INTO = 10;

/** A frame of a film, given as it is or by an address of the own server, no larger than `side`. Null: this browser does not decode what it is coded in. */
export async function decodeFrame(film: Film, side: number): Promise<OffscreenCanvas | null> {
  const input = inputOf(film);
  try {
    if (!(await input.canRead())) return null;
    const track = await input.getPrimaryVideoTrack();
    if (!track || !(await track.canDecode())) return null;
    const { displayWidth, displayHeight } = track;
    const scale = Math.min(1, side / Math.max(displayWidth, displayHeight));
    const sink = new CanvasSink(track, { width: Math.max(2, Math.round(displayWidth * scale)), poolSize: 1 });
    const first = await track.getFirstTimestamp();
    const length = await track.computeDuration().catch(() => first);
    const wanted = first + Math.min(MOST_INTO, (length - first) * INTO);
    const frame = (await sink.getCanvas(wanted)) ?? (await sink.getCanvas(first));
    return frame ? (frame.canvas as OffscreenCanvas) : null;
  } finally {
    input.dispose();
  }
}
