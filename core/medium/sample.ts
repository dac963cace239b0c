import type { Sha256 } from "../bytes/hash.ts";
import { patientSource } from "../bytes/patient-source.ts";
import { PlaceLedger } from "../bytes/place-ledger.ts";
import type { ByteSource } from "../bytes/source.ts";

/** Places that a sample looks at, and bytes of each. */
const PLACES = 16;
const PLACE_BYTES = 4096;

/** SHA-256 of a few places of a source, evenly spread from its first byte to its last; null: a place that does not read. */
export type Places = readonly (string | null)[];

/** What lies in those places, one after the other; null: it does not read. */
async function* placesOf(source: ByteSource, ledger: PlaceLedger): AsyncGenerator<Uint8Array | null> {
  const patient = patientSource(source, { ledger });
  const length = Math.min(PLACE_BYTES, source.size);
  for (let place = 0; place < PLACES; place++) {
    const at = Math.floor(((source.size - length) * place) / (PLACES - 1));
    const bytes = await patient.read(at, length);
    yield ledger.lost.overlap(at, length) > 0 ? null : bytes;
  }
}

/** What a source is known by again. Unreadable places count neither for nor against it. */
export async function sampleOf(source: ByteSource, sha256: Sha256, ledger = new PlaceLedger()): Promise<(string | null)[]> {
  const places: (string | null)[] = [];
  for await (const bytes of placesOf(source, ledger)) {
    sha256.start();
    if (bytes) sha256.update(bytes);
    places.push(bytes && sha256.digest());
  }
  return places;
}

/** One hash over the size and all places, as tickets kept it before; null: some place does not read now, so that it says nothing. */
export async function wholeSampleOf(source: ByteSource, sha256: Sha256, ledger = new PlaceLedger()): Promise<string | null> {
  sha256.start();
  sha256.update(new TextEncoder().encode(String(source.size)));
  for await (const bytes of placesOf(source, ledger)) {
    if (!bytes) return null;
    sha256.update(bytes);
  }
  return sha256.digest();
}

/** Can both be of one source? Every place that read both times must be the same. */
export const isSameSample = (known: Places, now: Places): boolean =>
  known.length === now.length && known.every((place, index) => place === null || now[index] === null || place === now[index]);
