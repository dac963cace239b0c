import { createHash, randomBytes } from "node:crypto";
import type { OwnersComputer } from "./kit.ts";
import type { PhoneCard } from "./phone/phone-card.ts";

/** A file that comes with a practice phone: what its owner or a maker's page would give. */
export interface Thing {
  readonly name: string;
  readonly about: string;
  readonly bytes: Uint8Array;
}

const KERNEL_BYTES = 40_000;
const PAGE = 2048;

/** A boot image with the magic and header of version 0 (AOSP, bootimg.h): kernel size, page size, one kernel of noise. */
function recoveryImage(): Uint8Array {
  const image = Buffer.alloc(PAGE + Math.ceil(KERNEL_BYTES / PAGE) * PAGE);
  image.write("ANDROID!", 0, "latin1");
  image.writeUInt32LE(KERNEL_BYTES, 8);
  image.writeUInt32LE(PAGE, 36);
  image.set(randomBytes(KERNEL_BYTES), PAGE);
  return image;
}

/** A system image as download mode takes it: a line that says what it is for, then its partitions. */
export function systemImage(model: string, build: string, partitions: Readonly<Record<string, Uint8Array>>): Uint8Array {
  const listed = Object.entries(partitions).map(([name, bytes]) => ({
    name,
    bytes: bytes.length,
    sha256: createHash("sha256").update(bytes).digest("hex"),
  }));
  const line = `${JSON.stringify({ image: "system image", model, build, partitions: listed })}\n`;
  return Buffer.concat([Buffer.from(line), ...Object.values(partitions)]);
}

/** Off by one letter: what must be refused. */
const otherBuild = (build: string): string => `${build.slice(0, -1)}${Number(build.at(-1)) === 9 ? 0 : Number(build.at(-1)) + 1}`;

/** What lies beside a practice phone. */
export function thingsOf({ card, build, brokenSystem, bootloaderUnlocked, knowsOwner }: PhoneCard, owner: OwnersComputer): Thing[] {
  const things: Thing[] = [];
  if (knowsOwner) things.push({ name: "adbkey", about: "the key of its owner's computer", bytes: Buffer.from(owner.pem) });
  if (bootloaderUnlocked && brokenSystem)
    things.push({ name: "recovery.img", about: `a recovery for ${card.model}`, bytes: recoveryImage() });
  else if (brokenSystem)
    for (const [code, about] of [
      [build, "the system image of its build code"],
      [otherBuild(build), "a system image of another build code"],
    ])
      things.push({
        name: `system-${code}.img`,
        about,
        bytes: systemImage(card.model, code, { boot: randomBytes(60_000), system: randomBytes(300_000) }),
      });
  return things;
}
