import type { VolumeInfo } from "../core/filesystems/volume.ts";
import { applyPatch, type Find, type Patch } from "../core/finds/find.ts";
import type { Checkpoint } from "../core/scan/checkpoint.ts";

/** File systems whose lists are judged together: two of their files may turn out to cross, and erased folders turn up in free space. */
const JUDGED_TOGETHER = /^(FAT|exFAT)/;
/** File systems in whose free space more of a list may turn up. */
const DUG = /^(FAT|exFAT|F2FS)/;

/**
 * Says which finds can be told of already. A line that is printed stays: so a find is held back as long as something may still be
 * learned that changes it, and no longer.
 */
export class Settling {
  readonly #held = new Map<string, Find>();
  readonly #told = new Map<string, Find["condition"]>();
  #volumes: readonly VolumeInfo[] = [];

  volumes(volumes: readonly VolumeInfo[]): void {
    this.#volumes = volumes;
  }

  #filesystem({ volume }: Find): string {
    return this.#volumes.find(({ index }) => index === volume)?.filesystem ?? "";
  }

  /** Until which pass something may change this find. */
  #waitsFor(find: Find): "nothing" | "listing" | "end" {
    const filesystem = this.#filesystem(find);
    if (find.state !== "erased") return JUDGED_TOGETHER.test(filesystem) ? "listing" : "nothing";
    // A media list may lend a name to what has none.
    return !find.checked || find.name === null || DUG.test(filesystem) ? "end" : "nothing";
  }

  /** Takes what a scan told. @returns the finds that can be printed now */
  take(finds: readonly Find[], patches: readonly Patch[], pass: Checkpoint["pass"]): Find[] {
    const ready: Find[] = [];
    const tell = (find: Find) => {
      this.#held.delete(find.id);
      this.#told.set(find.id, find.condition);
      ready.push(find);
    };
    for (const find of finds) {
      if (this.#waitsFor(find) === "nothing") tell(find);
      else this.#held.set(find.id, find);
    }
    for (const patch of patches) {
      const held = this.#held.get(patch.id);
      if (held) this.#held.set(patch.id, applyPatch(held, patch));
    }
    if (pass !== "listing") for (const find of [...this.#held.values()]) if (this.#waitsFor(find) === "listing") tell(find);
    return ready;
  }

  /** Those that are left when the scan is over, and those whose condition turned out to be another after they were printed. */
  rest(finds: ReadonlyMap<string, Find>): Find[] {
    const changed = [...this.#told].flatMap(([id, condition]) => {
      const find = finds.get(id);
      return find && find.condition !== condition ? [find] : [];
    });
    const left = [...this.#held.values()];
    this.#held.clear();
    return [...left, ...changed];
  }
}
