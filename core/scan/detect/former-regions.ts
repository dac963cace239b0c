import type { PatientSource } from "../../bytes/patient-source.ts";
import { type Begun, FormerVolumes, type Grid } from "../../filesystems/former/former-volumes.ts";
import type { Volume } from "../../filesystems/volume.ts";
import type { Claims } from "../claims.ts";
import type { FreeRun } from "../free-space.ts";

/** Contents of types that no other bytes look like, met where no file of the present volume can begin: so many of them, and one lay here before. */
const LEAST_STRANGERS = 2;

/** One stretch of the medium, a volume's or what lies outside of all, with what lay there before. */
export interface FormerRegion {
  readonly start: number;
  readonly end: number;
  readonly volume: Volume | null;
  readonly runs: readonly FreeRun[];
  readonly lists: FormerVolumes;
}

/** What lay on a medium before its present volumes, stretch by stretch. */
export class FormerRegions {
  readonly all: FormerRegion[] = [];
  readonly #claims: Claims;
  readonly #grids = new Map<FormerRegion, Grid[]>();
  readonly #unknown = new Map<FormerRegion, boolean>();

  constructor(source: PatientSource, runs: readonly FreeRun[], claims: Claims) {
    this.#claims = claims;
    const byVolume = new Map<Volume | null, FreeRun[]>();
    for (const run of runs) {
      const own = byVolume.get(run.volume);
      if (own) own.push(run);
      else byVolume.set(run.volume, [run]);
    }
    for (const [volume, own] of byVolume) {
      const [first, last] = [own[0], own[own.length - 1]];
      const start = volume?.info.start ?? first.offset;
      const end = volume ? volume.info.start + volume.info.length : last.offset + last.length;
      const now = volume && { info: volume.info, space: volume.space ?? null };
      this.all.push({
        start,
        end,
        volume,
        runs: own,
        lists: new FormerVolumes({ source, start, length: end - start, free: () => own, now }),
      });
    }
  }

  regionOf(volume: Volume | null): FormerRegion | undefined {
    return this.all.find((region) => region.volume === volume);
  }

  begun({ start, end }: FormerRegion): Begun[] {
    return this.#claims.begun().filter(({ at }) => at >= start && at < end);
  }

  /** Where contents began before, worked out when all free space was seen. */
  grids(region: FormerRegion): Grid[] {
    const known = this.#grids.get(region);
    if (known) return known;
    const grids = region.lists.grids(this.begun(region));
    this.#grids.set(region, grids);
    return grids;
  }

  /** Did a file of a former volume begin here, as far as its layout is known? */
  isOnFormerGrid(region: FormerRegion, at: number): boolean {
    return this.grids(region).some(({ offset, unit }) => at >= offset && (at - offset) % unit === 0);
  }

  /** Is there no layout to go by, and yet contents begin where none of the present volume can? */
  hasUnknownGrid(region: FormerRegion): boolean {
    const known = this.#unknown.get(region) ?? this.#hasStrangers(region);
    this.#unknown.set(region, known);
    return known;
  }

  #hasStrangers(region: FormerRegion): boolean {
    if (this.grids(region).length > 0 || !region.volume) return false;
    const { clusterBytes } = region.volume.info;
    const origin = region.runs[0].offset;
    const strange = this.#claims
      .begunUnrecorded()
      .filter((at) => at >= region.start && at < region.end && (at - origin) % clusterBytes !== 0);
    return strange.length >= LEAST_STRANGERS;
  }
}
