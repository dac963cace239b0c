import { execFileSync } from "node:child_process";
import { copyFileSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, truncateSync, utimesSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { gzipSync } from "node:zlib";
import type { Scene } from "./draw-scene.ts";
import { type Photo, renderPhotos } from "./render.ts";
import { SENT_PICTURES, theatreDatabases } from "./theatre-people.ts";

/**
 * Builds the storages of practice phones: an ext4 userdata with erased files and rows, the same one encrypted file by file (fscrypt) and one of which what was
 * free was trimmed, and one in F2FS with erased rows. ext4 is written by the kernel through a loop mount, F2FS by its stock tools, which only add files.
 * Needs root, loop devices, a kernel with encryption of files, e2fsprogs, f2fs-tools, util-linux, sqlite3, exiftool, python3 and Chromium; the results are
 * committed, so that nobody else does.
 */
const MIB = 1024 * 1024;
const EXT4_BYTES = 32 * MIB;
const F2FS_BYTES = 64 * MIB;
const work = mkdtempSync(join(tmpdir(), "jubar-userdata-"));
const run = (tool: string, args: readonly string[], input?: string) =>
  execFileSync(tool, args, {
    input,
    env: { ...process.env, TZ: "UTC", PATH: `${process.env.PATH}:/usr/sbin:/sbin` },
    stdio: ["pipe", "ignore", "inherit"],
  });

const two = (value: number) => String(value).padStart(2, "0");
const SCENES: readonly Scene[] = ["stage", "workshop", "road", "poster"];
const shot = (folder: string, file: string, number: number): Photo & { folder: string } => ({
  folder,
  file,
  scene: SCENES[number % SCENES.length],
  number,
  taken: `2026:05:${two(1 + (number % 14))} 18:${two((number * 7) % 60)}:00`,
  place: null,
  width: 480,
});
const photos = [
  ...Array.from({ length: 14 }, (_, index) => shot("DCIM/Camera", `SISK${1200 + index}.JPG`, 1200 + index)),
  ...SENT_PICTURES.map((file, index) => shot("Fadenwerk", file, 1240 + index)),
];
/** Photos that somebody deletes: every other one of the tour. */
const isDeleted = (index: number): boolean => index % 2 === 0 && index < 14;

await renderPhotos(photos, join(work, "photos"));
const tree = join(work, "tree");
const put = (path: string, from: string) => {
  mkdirSync(dirname(join(tree, path)), { recursive: true });
  copyFileSync(from, join(tree, path));
};
for (const { folder, file } of photos) put(`media/0/${folder}/${file}`, join(work, "photos", file));
// The last of them is named by messages, and lies nowhere any more.
rmSync(join(tree, "media/0/Fadenwerk", SENT_PICTURES[SENT_PICTURES.length - 1]));
for (const [path, sql] of theatreDatabases()) {
  mkdirSync(dirname(join(tree, path)), { recursive: true });
  run("sqlite3", [join(tree, path)], sql);
}
for (const path of readdirSync(tree, { recursive: true, encoding: "utf8" })) utimesSync(join(tree, path), 1_778_000_000, 1_778_000_000);

/** Fills a mounted volume as a phone is filled, in two turns, and deletes some. */
function fill(place: string, under: string): void {
  const to = join(place, under);
  mkdirSync(to, { recursive: true });
  run("cp", ["-a", `${tree}/.`, to]);
  run("sync", ["-f", to]);
  for (const [index, { folder, file }] of photos.entries()) if (isDeleted(index)) rmSync(join(to, "media/0", folder, file));
  run("sync", ["-f", to]);
}

/** Adds a key to a mounted volume and lets a folder be encrypted with it (Linux, fscrypt: FS_IOC_ADD_ENCRYPTION_KEY, FS_IOC_SET_ENCRYPTION_POLICY, version 2). */
const ENCRYPT = `
import fcntl, os, struct, sys
place, folder = sys.argv[1], sys.argv[2]
key = bytes(range(64))
arg = bytearray(struct.pack("<II32xII32x", 2, 0, len(key), 0) + key)
root = os.open(place, os.O_RDONLY)
fcntl.ioctl(root, 0xC0506617, arg, True)
policy = struct.pack("<BBBB4x", 2, 1, 4, 3) + bytes(arg[8:24])
fcntl.ioctl(os.open(folder, os.O_RDONLY), 0x800C6613, policy)
`;

const keep = (name: string, image: string) => writeFileSync(join("demo", `${name}.gz`), gzipSync(readFileSync(image), { level: 9 }));

function ext4(name: string, kind: "plain" | "encrypted" | "trimmed"): void {
  const image = join(work, name);
  writeFileSync(image, "");
  truncateSync(image, EXT4_BYTES);
  run("mkfs.ext4", [
    "-q",
    "-F",
    "-b",
    "4096",
    "-L",
    "userdata",
    "-O",
    "encrypt",
    "-E",
    "lazy_itable_init=0,hash_seed=00000000-0000-4000-8000-000000000026",
    "-U",
    "00000000-0000-4000-8000-000000000025",
    image,
  ]);
  const place = join(work, "mounted");
  mkdirSync(place, { recursive: true });
  run("mount", ["-o", "loop", image, place]);
  try {
    if (kind === "encrypted") {
      // What a phone keeps open before anybody types a code; all else is encrypted.
      mkdirSync(join(place, "unencrypted"));
      writeFileSync(join(place, "unencrypted", "per_boot_ref"), "practice");
      mkdirSync(join(place, "user"));
      run("python3", ["-c", ENCRYPT, place, join(place, "user")]);
      fill(place, "user");
    } else fill(place, ".");
    if (kind === "trimmed") run("fstrim", [place]);
  } finally {
    run("umount", [place]);
  }
  keep(name, image);
}

function f2fs(name: string): void {
  const image = join(work, name);
  writeFileSync(image, "");
  truncateSync(image, F2FS_BYTES);
  run("mkfs.f2fs", ["-q", "-f", "-l", "userdata", image]);
  run("sload.f2fs", ["-f", tree, image]);
  keep(name, image);
}

ext4("tern-userdata.img", "plain");
ext4("tern-trimmed.img", "trimmed");
ext4("siskin-encrypted.img", "encrypted");
f2fs("siskin-f2fs.img");
rmSync(work, { recursive: true });
