import { z } from "zod";
import { MappingSchema } from "../../core/stores/mapping/mapping.ts";

/** What somebody said that an app's databases mean. It is kept for all tickets. */
export const KeptMapping = z.object({
  id: z.number().int().positive().optional(),
  /** Which databases it is of (core/stores/mapping/fingerprint.ts). */
  fingerprint: z.string(),
  keptAt: z.number(),
  /** Null: it is no messenger. */
  mapping: MappingSchema.nullable(),
});
export type KeptMapping = z.infer<typeof KeptMapping>;
