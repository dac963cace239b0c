import { z } from "zod";

/** Bytes as they are kept in a database of the browser: as such, not as text. */
export const Bytes = z.custom<Uint8Array>((value) => value instanceof Uint8Array);
