import { z } from "zod";

/** Bytes of a medium, as they are kept. */
export const Stretch = z.object({ offset: z.number(), length: z.number() });

/** A copy that lacks places of what it was made of: which, and how large that was. */
export const Lacks = z.object({ holes: z.array(Stretch), size: z.number().int().nonnegative() });
export type Lacks = z.infer<typeof Lacks>;
