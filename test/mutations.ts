import { memorySource } from "../core/bytes/memory-source.ts";
import { type PatientSource, patientSource } from "../core/bytes/patient-source.ts";
import { type ByteSource, checkRange, UnusableError } from "../core/bytes/source.ts";
import { openVolumes } from "../core/filesystems/open-volumes.ts";
import { seeded } from "../demo/random.ts";

/** What mutated images did to the lists. Times in milliseconds of the processor: a busy machine must not tell. */
export interface MutationReport {
  readonly cases: number;
  /** Files, rows or pieces that were told of. */
  readonly files: number;
  readonly slowest: number;
  readonly slowestCase: string;
  /** Seed and sector of each case that crashed, or told of bytes that the source does not have. */
  readonly failures: readonly string[];
}

const SECTOR = 512;
/** Values that break arithmetic more often than chance ones do. */
const EVIL = [0, 1, 2, 0x7f, 0x80, 0xff];

/** The sectors that listing a sound image reads and that say something: what is worth breaking. */
async function structuresOf(bytes: Uint8Array): Promise<number[]> {
  const source = patientSource(memorySource(bytes));
  const read = new Set<number>();
  const recording: PatientSource = {
    ...source,
    get bytesRead() {
      return source.bytesRead;
    },
    read(offset, length) {
      for (let sector = Math.floor(offset / SECTOR); sector * SECTOR < offset + length; sector++) read.add(sector);
      return source.read(offset, length);
    },
  };
  const medium = await openVolumes(recording);
  for (const volume of medium.volumes) for await (const _ of volume.list());
  return [...read]
    .filter((sector) => bytes.subarray(sector * SECTOR, (sector + 1) * SECTOR).some((byte) => byte !== 0))
    .sort((a, b) => a - b);
}

/** An image with some sectors changed, without copying the rest of it. */
function patched(bytes: Uint8Array, sectors: ReadonlyMap<number, Uint8Array>): ByteSource {
  const place = { name: "mutated", size: bytes.length };
  return {
    ...place,
    async read(offset, length) {
      checkRange(place, offset, length);
      const piece = bytes.slice(offset, offset + length);
      for (const [sector, changed] of sectors) {
        const from = Math.max(offset, sector * SECTOR);
        const to = Math.min(offset + length, (sector + 1) * SECTOR);
        if (from < to) piece.set(changed.subarray(from - sector * SECTOR, to - sector * SECTOR), from - offset);
      }
      return piece;
    },
  };
}

function mutate(sector: Uint8Array, random: () => number): Uint8Array {
  const changed = sector.slice();
  for (let change = 0; change < 1 + random() * 8; change++) {
    const at = Math.floor(random() * SECTOR);
    const value = random() < 0.5 ? EVIL[Math.floor(random() * EVIL.length)] : Math.floor(random() * 256);
    const width = [1, 2, 4, 8][Math.floor(random() * 4)];
    changed.fill(value, at, at + width);
  }
  return changed;
}

/** What one case does: it says its name and does its work. `fail` notes what it found wrong. */
interface Case {
  readonly named: string;
  /** @returns how many things it told of */
  run(fail: (what: string) => void): Promise<number>;
}

/** Runs cases one after the other, each timed by the processor. A case that throws has failed, unless it says that its input is unusable. */
export async function runCases(cases: number, make: (index: number) => Case, tell: (done: number) => void): Promise<MutationReport> {
  const failures: string[] = [];
  let slowest = 0;
  let slowestCase = "";
  let files = 0;
  for (let index = 0; index < cases; index++) {
    const { named, run } = make(index);
    const started = process.cpuUsage();
    try {
      files += await run((what) => failures.push(`${named}: ${what}`));
    } catch (cause) {
      if (!(cause instanceof UnusableError)) failures.push(`${named}: ${cause instanceof Error ? cause.stack : String(cause)}`);
    }
    const { user, system } = process.cpuUsage(started);
    if ((user + system) / 1000 > slowest) {
      slowest = (user + system) / 1000;
      slowestCase = named;
    }
    tell(index + 1);
  }
  return { cases, files, slowest, slowestCase, failures };
}

/** Lists an image again and again with a few of its structures broken. The same seed breaks the same ones. */
export async function mutateImage(
  bytes: Uint8Array,
  cases: number,
  seed: number,
  tell: (done: number) => void = () => {},
): Promise<MutationReport> {
  const structures = await structuresOf(bytes);
  const random = seeded(seed);
  return runCases(
    cases,
    (index) => {
      const sectors = new Map<number, Uint8Array>();
      for (let broken = 0; broken < 1 + random() * 4; broken++) {
        const sector = structures[Math.floor(random() * structures.length)];
        sectors.set(sector, mutate(bytes.subarray(sector * SECTOR, (sector + 1) * SECTOR), random));
      }
      return {
        named: `case ${index} of seed ${seed}, sectors ${[...sectors.keys()].join(", ")}`,
        async run(fail) {
          let files = 0;
          const medium = await openVolumes(patientSource(patched(bytes, sectors)));
          for (const volume of medium.volumes) {
            for (const { offset, length } of volume.freeRuns())
              if (offset < 0 || offset + length > bytes.length) fail("free space outside");
            for await (const batch of volume.list())
              for (const file of batch.files) {
                files++;
                for (const { extents } of file.placements)
                  for (const { offset, length } of extents)
                    if (length <= 0 || offset < -1 || (offset >= 0 && offset + length > bytes.length)) fail(`${file.path} lies outside`);
              }
          }
          return files;
        },
      };
    },
    tell,
  );
}
