import { execFileSync } from "node:child_process";
import { mkdirSync, mkdtempSync, readFileSync, rmSync, truncateSync, utimesSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { memorySource } from "../core/bytes/memory-source.ts";
import { patientSource } from "../core/bytes/patient-source.ts";
import type { ByteSource } from "../core/bytes/source.ts";
import { openVolumes } from "../core/filesystems/open-volumes.ts";
import type { ListedFile } from "../core/filesystems/volume.ts";
import { MOMENT } from "./fat-card.ts";

/** A folder in which the real tools make images, gone when the tests are. */
export class Workshop {
  readonly folder = mkdtempSync(join(tmpdir(), "jubar-workshop-"));

  path = (name: string): string => join(this.folder, name);

  /** Runs a system tool. @returns its standard output */
  run(command: string, ...args: string[]): string {
    return execFileSync(command, args, {
      env: { ...process.env, LC_ALL: "C.UTF-8", TZ: "UTC" },
      stdio: ["ignore", "pipe", "pipe"],
      maxBuffer: 64 * 1024 * 1024,
      encoding: "utf8",
    });
  }

  /** An empty image. @returns its path */
  blank(name: string, mebibytes: number): string {
    const path = this.path(name);
    writeFileSync(path, "");
    truncateSync(path, mebibytes * 1024 * 1024);
    return path;
  }

  /** A folder with files, for tools that fill an image from one. @returns its path */
  tree(name: string, files: ReadonlyMap<string, Uint8Array>): string {
    const root = this.path(name);
    for (const [path, content] of files) {
      mkdirSync(dirname(join(root, path)), { recursive: true });
      writeFileSync(join(root, path), content);
      utimesSync(join(root, path), MOMENT, MOMENT);
    }
    return root;
  }

  bytes = (path: string): Uint8Array => new Uint8Array(readFileSync(path));
  source = (path: string): ByteSource => memorySource(this.bytes(path), path);
  close = (): void => rmSync(this.folder, { recursive: true });
}

/** Everything that the volumes of a source list. */
export async function listed(source: ByteSource, options?: { search: boolean }) {
  const medium = await openVolumes(patientSource(source), options);
  const files: ListedFile[] = [];
  const troubles = [...medium.troubles, ...medium.volumes.flatMap((volume) => [...volume.troubles])].map(({ what }) => what);
  for (const volume of medium.volumes)
    for await (const batch of volume.list()) {
      files.push(...batch.files);
      troubles.push(...batch.troubles.map(({ what }) => what));
    }
  return { volumes: medium.volumes.map(({ info }) => info), files, troubles };
}
