import { execFileSync } from "node:child_process";
import { mkdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { chromium } from "@playwright/test";
import { drawScene, type Scene } from "./draw-scene.ts";

/** One photo of the demo: what is drawn, and what its camera data says. */
export interface Photo {
  readonly file: string;
  readonly scene: Scene;
  readonly number: number;
  /** The camera's clock, as EXIF has it: YYYY:MM:DD HH:MM:SS. Null: a screenshot or poster without camera data. */
  readonly taken: string | null;
  readonly place: { readonly latitude: number; readonly longitude: number } | null;
  readonly width: number;
}

const CAMERA = { make: "Corvane", model: "Siskin 3" };

/** Draws all photos into a folder: JPEG with EXIF and a preview inside, or PNG by the name's ending. */
export async function renderPhotos(photos: readonly Photo[], folder: string): Promise<void> {
  mkdirSync(folder, { recursive: true });
  const browser = await chromium.launch({
    executablePath: process.env.JUBAR_CHROMIUM ?? "/usr/bin/chromium",
    args: ["--no-sandbox", "--disable-background-networking"],
  });
  try {
    const page = await browser.newPage();
    for (const { file, scene, number, width, taken, place } of photos) {
      const shoot = async (side: number, path: string) => {
        const size = { width: side, height: Math.round((side * 3) / 4) };
        await page.setViewportSize(size);
        await page.setContent(`<style>body{margin:0}svg{display:block;width:100vw;height:auto}</style>${drawScene(scene, number)}`);
        await page.screenshot({ path, ...(path.endsWith(".png") ? {} : { type: "jpeg" as const, quality: 80 }) });
      };
      const path = join(folder, file);
      await shoot(width, path);
      if (!taken) continue;
      const thumbnail = join(folder, "preview.jpg");
      await shoot(160, thumbnail);
      const position = place
        ? [`-GPSLatitude=${place.latitude}`, "-GPSLatitudeRef=N", `-GPSLongitude=${place.longitude}`, "-GPSLongitudeRef=E"]
        : [];
      execFileSync("exiftool", [
        "-q",
        "-overwrite_original",
        `-Make=${CAMERA.make}`,
        `-Model=${CAMERA.model}`,
        `-DateTimeOriginal=${taken}`,
        `-CreateDate=${taken}`,
        `-ExifImageWidth=${width}`,
        `-ExifImageHeight=${Math.round((width * 3) / 4)}`,
        ...position,
        `-ThumbnailImage<=${thumbnail}`,
        path,
      ]);
    }
    writeFileSync(join(folder, "preview.jpg"), "");
  } finally {
    await browser.close();
  }
}
