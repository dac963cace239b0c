import { FORMER_MARKS, mayTellOfFormer } from "../../filesystems/former/former-volumes.ts";
import { type Bench, type Detector, type MakeDetector, NOTHING_SEEN, type Sector, type Seen } from "./detector.ts";
import { judgeFound } from "./judge.ts";

const NAME = "former";
/** Bytes of a list that are looked at from where it was met. */
const PIECE = 4096;

/** Folders of volumes that were formatted over: they are remembered, and their files told when all of them were seen. */
export const formerLists: MakeDetector = (bench: Bench): Detector => {
  const { source, space, former } = bench;
  const read = (at: number) => source.read(at, Math.min(PIECE, source.size - at));
  const listsAt = (index: number) => former.regionOf(space.runs[index].volume)?.lists;

  async function look({ index, at, bytes, within }: Sector): Promise<Seen> {
    const piece = within + PIECE <= bytes.length ? bytes.subarray(within, within + PIECE) : await read(at);
    return listsAt(index)?.see(piece, at) ? { ...NOTHING_SEEN, keep: true } : NOTHING_SEEN;
  }

  async function* rest(): AsyncGenerator<Seen> {
    for (const region of former.all) {
      // Asked for before anything of it is told: what is told changes what the layout is worked out from.
      former.grids(region);
      for await (const { files, troubles } of region.lists.files(former.begun(region))) {
        const judged = await judgeFound(files, region.volume, bench);
        yield { ...NOTHING_SEEN, ...judged, troubles };
      }
    }
  }

  return {
    name: NAME,
    stopsFor: [],
    marks: FORMER_MARKS,
    wants: ({ bytes, within }) => mayTellOfFormer(bytes, within),
    look,
    async recall(kept) {
      for (const at of kept) listsAt(space.indexAt(at))?.see(await read(at), at);
    },
    rest,
  };
};
