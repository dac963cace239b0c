import { z } from "zod";

/** What is known of one recovered item. Kept in the browser's database and printed by the terminal: so it is a schema. */
export const KINDS = ["photo", "video", "audio", "document", "archive", "database", "app", "other"] as const;
export const STATES = ["present", "binned", "erased"] as const;
export const CONDITIONS = ["whole", "damaged", "small copy", "remnant"] as const;
const PASSES = ["listing", "sweep", "archives", "databases", "reconcile"] as const;

export type State = (typeof STATES)[number];

const bytes = z.number().int().nonnegative();
const time = z.number().nullable();

/** Milliseconds since 1970 that a find can have: from that year to 2199. A clock that stood elsewhere tells no time. */
const LATEST = Date.UTC(2200, 0, 1);
/** A time as it stands in a file system or a picture, or null where no clock of a phone or camera can have said it. */
export const believable = (moment: number | null): number | null =>
  moment !== null && moment >= 0 && moment < LATEST ? Math.round(moment) : null;

/** One reason why we think so: which pass saw which structure, and where (absolute bytes on the source). */
export const Evidence = z.object({ pass: z.enum(PASSES), what: z.string(), at: bytes });
export type Evidence = z.infer<typeof Evidence>;

export const Find = z.object({
  /** The same for the same source and options: the place of the record or of the first byte. */
  id: z.string().min(1),
  kind: z.enum(KINDS),
  format: z.string(),
  state: z.enum(STATES),
  condition: z.enum(CONDITIONS),
  /** Why this condition, in plain words. */
  because: z.string(),
  /** Was its structure walked? False: nothing in Jubar can vouch for these bytes. */
  checked: z.boolean(),
  name: z.string().nullable(),
  path: z.string().nullable(),
  /** Bytes. */
  size: bytes,
  /** Milliseconds since 1970, as the device's clock had it. */
  modified: time,
  taken: time,
  /** Binned: when the bin would drop it. */
  lastDay: time,
  width: z.number().nullable(),
  height: z.number().nullable(),
  /** How long a film or a sound lasts, by its own header. */
  seconds: z.number().nonnegative().nullable().default(null),
  /** Part of the picture, from the top, that can be shown: 0 to 1. */
  shown: z.number().nullable(),
  camera: z.string().nullable(),
  place: z.object({ latitude: z.number(), longitude: z.number() }).nullable(),
  sha256: z.string().nullable(),
  /** In the order of the content. Offset -1: zeros that lie nowhere, never written or lost. */
  extents: z.array(z.object({ offset: z.number().int().min(-1), length: bytes })),
  /** What lies there is packed: it unpacks to a stream, in which the content begins behind `skip` bytes. */
  packed: z.object({ with: z.enum(["deflate", "zlib", "gzip"]), skip: bytes }).optional(),
  volume: z.number().int().nullable(),
  /** The find that holds it. */
  inside: z.string().nullable(),
  evidence: z.array(Evidence),
});
export type Find = z.infer<typeof Find>;

/** Something learned about a find after it was handed on. */
export interface Patch {
  readonly id: string;
  readonly evidence: readonly Evidence[];
  readonly condition?: Find["condition"];
  readonly because?: string;
  /** The find that turned out to hold it. */
  readonly inside?: string;
  /** An item found by its content, whose list entry turned up later: what the entry knows of it. */
  readonly entry?: Pick<Find, "name" | "path" | "modified">;
}

/** The find with what was learned; the same piece of evidence is not kept twice. */
export function applyPatch(find: Find, patch: Patch): Find {
  const fresh = patch.evidence.filter(
    (one) => !find.evidence.some((known) => known.pass === one.pass && known.at === one.at && known.what === one.what),
  );
  return {
    ...find,
    condition: patch.condition ?? find.condition,
    because: patch.because ?? find.because,
    ...(patch.inside !== undefined && { inside: patch.inside }),
    ...patch.entry,
    evidence: [...find.evidence, ...fresh],
  };
}

/** The day a find belongs to: when it was taken, else when it was last changed. */
export const timeOf = (find: Pick<Find, "taken" | "modified">): number | null => find.taken ?? find.modified;

/** Each kind in a word, for screens, pages and folders. */
export const KIND_WORDS: Record<Find["kind"], string> = {
  photo: "photos",
  video: "videos",
  audio: "sound",
  document: "documents",
  archive: "archives",
  database: "databases",
  app: "apps",
  other: "other",
};
