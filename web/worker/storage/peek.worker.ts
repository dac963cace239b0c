import { expose } from "comlink";
import { PassphraseNeeded } from "../../../core/backup/unpack.ts";
import { portableSha256 } from "../../../core/bytes/hash.ts";
import { patientSource } from "../../../core/bytes/patient-source.ts";
import { type KeptPlaces, PlaceLedger } from "../../../core/bytes/place-ledger.ts";
import { UnusableError } from "../../../core/bytes/source.ts";
import { openVolumes } from "../../../core/filesystems/open-volumes.ts";
import { sampleOf } from "../../../core/medium/sample.ts";
import type { MediumKind, Sample } from "../../kept/medium.ts";
import type { Grant } from "./grant.ts";
import { openStorage } from "./open-grant.ts";

/** A first look at something that was put on the bench, before there is a job. */
export type Peek =
  | {
      readonly ok: true;
      readonly sample: Sample;
      /** What it turned out to be, and, of a backup, the name of the archive that it was unpacked to. */
      readonly kind: MediumKind;
      readonly unpacked?: string;
      /** What was learned of its bad places by this look: it is not learned again. */
      readonly places: KeptPlaces;
      /** Bytes of what it stands for: more than the file's own, where that is packed. */
      readonly size: number;
      readonly volumes: readonly { filesystem: string; label: string | null }[];
      readonly troubles: readonly string[];
    }
  | { readonly ok: false; readonly because: string; readonly passphrase?: boolean };

const peek = {
  async look(grant: Grant, progress: (part: number) => void): Promise<Peek> {
    let name = "It";
    try {
      const { source, kind, unpacked } = await openStorage(grant, progress);
      name = source.name;
      const ledger = new PlaceLedger();
      const medium = await openVolumes(patientSource(source, { ledger }));
      const sample = await sampleOf(source, await portableSha256(), ledger);
      return {
        ok: true,
        kind,
        places: ledger.kept(),
        ...(unpacked && { unpacked }),
        sample,
        size: source.size,
        volumes: medium.volumes.map(({ info }) => ({ filesystem: info.filesystem, label: info.label })),
        troubles: [...medium.troubles, ...medium.volumes.flatMap(({ troubles }) => troubles)].map(({ what }) => what),
      };
    } catch (cause) {
      return {
        ok: false,
        passphrase: cause instanceof PassphraseNeeded,
        because:
          cause instanceof UnusableError
            ? cause.message
            : `${name} cannot be read: ${cause instanceof Error ? cause.message : String(cause)}`,
      };
    }
  },
};
export type PeekWorker = typeof peek;

expose(peek);
