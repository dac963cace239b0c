import { z } from "zod";

/** What is known of the phone itself, asked or read off. Null: not known. Sizes in bytes. */
export const Facts = z.object({
  /** Major version of Android. */
  android: z.number().int().min(1).max(99).nullable(),
  encryption: z.enum(["none", "full disk", "file based"]).nullable(),
  root: z.boolean().nullable(),
  /** Does the system hand freed blocks back to the flash (trim, discard)? */
  trims: z.boolean().nullable(),
  free: z.number().nonnegative().nullable(),
  writtenSince: z.number().nonnegative().nullable(),
  /** Is USB debugging switched on? */
  debugging: z.boolean().nullable(),
  /** Does the owner bring a computer that this phone allowed before? */
  allowedComputer: z.boolean().nullable(),
  bootloaderUnlocked: z.boolean().nullable(),
  /** Is a recovery there that gives a shell, other than the maker's own? */
  customRecovery: z.boolean().nullable(),
  /** Is a system image at hand whose model and build code are exactly this phone's? */
  matchingImage: z.boolean().nullable(),
  /** Is a recovery image for this model at hand, to be started for once? */
  recoveryImage: z.boolean().nullable(),
  /** Battery charge in per cent. */
  battery: z.number().min(0).max(100).nullable(),
  /** Does its running system let this computer in over debugging? False: it asks its owner, or refuses. Null: it was not met over debugging. */
  letsIn: z.boolean().nullable().default(null),
  /** Does its screen lock hold at the moment, as the phone itself tells? */
  locked: z.boolean().nullable().default(null),
  /** Is a memory card inside, as the phone itself tells? Null: it shows none, which a damaged one does not either. */
  cardInside: z.boolean().nullable().default(null),
});
export type Facts = z.infer<typeof Facts>;

export const unknownFacts = (): Facts => ({
  android: null,
  encryption: null,
  root: null,
  trims: null,
  free: null,
  writtenSince: null,
  debugging: null,
  allowedComputer: null,
  bootloaderUnlocked: null,
  customRecovery: null,
  matchingImage: null,
  recoveryImage: null,
  battery: null,
  letsIn: null,
  locked: null,
  cardInside: null,
});

/** File-based encryption is what phones first sold with this version have (Android 10 compatibility definition, from memory). */
const FILE_BASED_FROM = 10;
/** Full-disk encryption was offered and common from here (from memory). */
const FULL_DISK_FROM = 5;

/** The encryption to count on: what was read off, else what most phones of that version have. */
export function likelyEncryption({ encryption, android }: Facts): { is: NonNullable<Facts["encryption"]> | null; guessed: boolean } {
  if (encryption) return { is: encryption, guessed: false };
  if (android === null) return { is: null, guessed: true };
  return { is: android >= FILE_BASED_FROM ? "file based" : android >= FULL_DISK_FROM ? "full disk" : "none", guessed: true };
}
