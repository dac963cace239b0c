import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, truncateSync, utimesSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import { zipSync } from "fflate";
import { pdfOf } from "./pdf.ts";
import { type Photo, renderPhotos } from "./render.ts";

/**
 * Builds the third practice card: what the theatre's workshop keeps beside photos, films, sounds, drawings, papers. Needs dosfstools, mtools, exiftool, ffmpeg and Chromium; the result is committed, so that nobody else does.
 */
const CARD = "demo/props-card.img.gz";
const MEBIBYTES = 36;

const folder = mkdtempSync(join(tmpdir(), "jubar-props-"));
const image = join(folder, "card.img");
const at = (name: string): string => join(folder, name);
const run = (command: string, ...args: string[]) =>
  execFileSync(command, args, {
    stdio: ["ignore", "ignore", "inherit"],
    env: { ...process.env, PATH: `${process.env.PATH}:/usr/sbin:/sbin` },
  });
const make = (name: string, ...args: string[]): string => {
  run("ffmpeg", "-v", "error", "-y", ...args, "-fflags", "+bitexact", "-map_metadata", "-1", at(name));
  return name;
};
const write = (name: string, content: string | Uint8Array): string => {
  writeFileSync(at(name), content);
  return name;
};

const photos: Photo[] = (["stage", "workshop", "stage", "road"] as const).map((scene, index) => ({
  file: `scene${index}.png`,
  scene,
  number: 700 + index,
  taken: null,
  place: null,
  width: 800,
}));
await renderPhotos(photos, folder);

/** Three scenes, each moved over slowly, with a tone. */
const filmOf = (name: string, seconds: number, ...coded: string[]): string => {
  const still = (index: number) => ["-loop", "1", "-t", String(seconds / 3), "-i", at(`scene${index}.png`)];
  const moved = (index: number) => `[${index}:v]zoompan=z='1+0.0015*on':d=1:s=640x480:fps=25,format=yuv420p[v${index}]`;
  const filter = `${[0, 1, 2].map(moved).join(";")};[v0][v1][v2]concat=n=3:v=1:a=0[v]`;
  const tone = ["-f", "lavfi", "-t", String(seconds), "-i", "sine=frequency=220:sample_rate=44100"];
  return make(name, ...still(0), ...still(1), ...still(2), ...tone, "-filter_complex", filter, "-map", "[v]", "-map", "3:a", ...coded);
};
const LETTER = `<w:document xmlns:w="w"><w:body><w:p><w:r><w:t>Workshop notes: the crocodile's jaw needs a stronger hinge before Thursday.</w:t></w:r></w:p><w:p><w:r><w:t>Ilse has the brass rods.</w:t></w:r></w:p></w:body></w:document>`;
const H264 = ["-c:v", "libx264", "-crf", "31", "-preset", "veryslow", "-c:a", "aac", "-b:a", "48k"];

const files: (readonly [folder: string, name: string, day: string])[] = [
  ["Films", filmOf("rehearsal crocodile.mp4", 9, ...H264), "2026-05-04"],
  [
    "Films",
    filmOf("lantern test.webm", 3, "-c:v", "libvpx-vp9", "-crf", "44", "-b:v", "0", "-c:a", "libopus", "-b:a", "32k"),
    "2026-05-04",
  ],
  ["Films", filmOf("old camera.avi", 3, "-c:v", "mpeg4", "-q:v", "14", "-c:a", "libmp3lame", "-b:a", "48k"), "2026-04-19"],
  ["Sounds", make("waltz.mp3", "-f", "lavfi", "-t", "21", "-i", "sine=frequency=330", "-c:a", "libmp3lame", "-b:a", "32k"), "2026-04-19"],
  ["Sounds", make("voice 12.m4a", "-f", "lavfi", "-t", "7", "-i", "sine=frequency=180", "-c:a", "aac", "-b:a", "24k"), "2026-05-06"],
  ["Drawings", make("set sketch.webp", "-i", at("scene1.png"), "-quality", "60"), "2026-05-01"],
  [
    "Drawings",
    make("moon turning.gif", "-i", at("scene3.png"), "-vf", "scale=240:-1,zoompan=z='1+0.02*on':d=8:s=240x180:fps=8"),
    "2026-05-01",
  ],
  ["Drawings", make("backdrop.tiff", "-i", at("scene2.png"), "-vf", "scale=400:-1", "-compression_algo", "lzw"), "2026-03-28"],
  ["Drawings", make("poster draft.bmp", "-i", at("scene0.png"), "-vf", "scale=320:-1"), "2026-03-28"],
  ["Papers", write("programme.pdf", pdfOf(["Teatrul Lumina", "The Crocodile and the Moon", "Cast and crew"], "")), "2026-05-02"],
  [
    "Papers",
    write(
      "workshop notes.docx",
      zipSync(
        { "[Content_Types].xml": Buffer.from("<Types/>"), "word/document.xml": Buffer.from(LETTER) },
        { mtime: new Date("2026-05-02T10:00:00") },
      ),
    ),
    "2026-05-02",
  ],
  [
    "Papers",
    write("cast.csv", 'name,part,evenings\nIlse,Lantern,12\nAna,"Moon, the",9\nMirela,Crocodile,11\nOdile,Ferryman,7\n'),
    "2026-05-03",
  ],
  [
    "Papers",
    write(
      "letter to the barn.txt",
      "Dear Odile,\n\nthe moon rig arrived, and the barn is still wet.\nWho has the key to the second wagon?\n\nAna\n",
    ),
    "2026-05-05",
  ],
  [
    "Papers",
    write(
      "key.eml",
      "From: Ana <ana@teatrul.example>\r\nTo: ilse@wagon.example\r\nSubject: The key\r\nMIME-Version: 1.0\r\n\r\nIt is in the second wagon, behind the crocodile.\r\n",
    ),
    "2026-05-05",
  ],
];
writeFileSync(image, "");
truncateSync(image, MEBIBYTES * 1024 * 1024);
run("mkfs.vfat", "-F", "32", "-s", "1", "-n", "PROPS", "-i", "20260601", "--invariant", image);
for (const name of ["Films", "Sounds", "Drawings", "Papers"]) run("mmd", "-i", image, `::/${name}`);
for (const [where, name, day] of files) {
  utimesSync(at(name), new Date(`${day}T16:20:00Z`), new Date(`${day}T16:20:00Z`));
  run("mcopy", "-m", "-i", image, at(name), `::/${where}/${name}`);
}
for (const name of ["Films/lantern test.webm", "Sounds/voice 12.m4a", "Papers/letter to the barn.txt", "Drawings/set sketch.webp"])
  run("mdel", "-i", image, `::/${name}`);
writeFileSync(CARD, gzipSync(readFileSync(image), { level: 9 }));
rmSync(folder, { recursive: true });
