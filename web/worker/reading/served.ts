import { z } from "zod";
import type { Stored } from "../../../core/archives/stream.ts";
import { holed, type RangeSet } from "../../../core/bytes/ranges.ts";

const Told = z.object({ url: z.string().startsWith("/contents/") });

/** Media types that the own server gives an address for: what a player reads by itself. */
const isPlayed = (media: string): boolean => /^(audio|video)\//.test(media);

/**
 * An address of the own server that gives a content of one of its media by range: a player reads what it wants of it, when it wants it. Places that are
 * known not to read are zeros. Null: nothing plays it, it is packed, or the server does not give one.
 */
export async function servedAt({ extents, packed }: Stored, medium: string, unreadable: RangeSet, media: string): Promise<string | null> {
  if (packed || !isPlayed(media) || extents.length === 0) return null;
  const answer = await fetch(`${medium}/contents`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ media, extents: holed(extents, unreadable).filter(({ length }) => length > 0) }),
  });
  const told = answer.ok ? Told.safeParse(await answer.json().catch(() => null)) : null;
  return told?.success ? new URL(told.data.url, location.origin).href : null;
}
