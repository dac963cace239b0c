import { type Bench, type Detector, type MakeDetector, NOTHING_SEEN, type Sector, type Seen } from "./detector.ts";
import { judgeFound, recallFound } from "./judge.ts";

const NAME = "lists";

/** Blocks of erased folders and records of the present volumes that no list leads to any more. */
export const lostLists: MakeDetector = (bench: Bench): Detector => {
  const { source, claims, space } = bench;

  async function look({ run, at, bytes, within }: Sector): Promise<Seen> {
    const { volume } = run;
    if (!volume) return NOTHING_SEEN;
    const { clusterBytes } = volume.info;
    const end = within + clusterBytes;
    // A cluster may be larger than a window: exFAT allows 32 MiB.
    const inside = end <= bytes.length || at + clusterBytes > run.offset + run.length;
    const block = inside ? bytes.subarray(within, end) : await source.read(at, clusterBytes);
    if (block.length < clusterBytes || claims.proven.overlap(at, 1) > 0) return NOTHING_SEEN;
    const { files, troubles } = await volume.dig(block, at);
    return { ...NOTHING_SEEN, ...(await judgeFound(files, volume, bench)), troubles, keep: true };
  }

  return {
    name: NAME,
    stopsFor: [],
    marks: null,
    onGridOnly: true,
    wants: (sector) => sector.run.volume?.mayDig(sector.bytes, sector.within, sector.at) === true,
    look,
    async recall(kept, before) {
      for (const at of kept) {
        const { volume } = space.runs[space.indexAt(at)];
        if (!volume) continue;
        const { files } = await volume.dig(await source.read(at, volume.info.clusterBytes), at);
        recallFound(files, volume, before);
      }
    },
  };
};
