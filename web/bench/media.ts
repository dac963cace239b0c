import { useEffect, useState } from "react";
import { z } from "zod";

/** What the own server has on the bench. */
const Media = z.array(
  z.object({
    id: z.string(),
    name: z.string(),
    size: z.number(),
    note: z.string(),
    url: z.string().startsWith("/media/"),
    ticket: z.object({ customer: z.string(), device: z.string(), wants: z.string() }).nullable(),
  }),
);
export type AttachedMedium = z.infer<typeof Media>[number];

/** Media attached to the server. Without a server there are none, and dropping files still works. */
export function useAttachedMedia(): readonly AttachedMedium[] {
  const [media, setMedia] = useState<readonly AttachedMedium[]>([]);
  useEffect(() => {
    fetch("/api/media")
      .then((answer) => answer.json())
      .then((body) => setMedia(Media.parse(body)))
      .catch(() => setMedia([]));
  }, []);
  return media;
}
