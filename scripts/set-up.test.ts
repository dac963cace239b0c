import { spawnSync } from "node:child_process";
import { chmodSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";
import { afterAll, expect, test } from "vitest";

/** What the commands say on a machine that lacks something: one sentence, and not success. */
const folder = mkdtempSync(join(tmpdir(), "jubar-bare-"));
afterAll(() => rmSync(folder, { recursive: true }));
symlinkSync(process.execPath, join(folder, "node"));

const onBareMachine = (script: string, options: object = {}) =>
  spawnSync(process.execPath, [resolve(script)], { env: { PATH: folder, HOME: folder }, encoding: "utf8", ...options });

test("without the tools and without apt-get, npm test names what is missing", () => {
  const { status, stderr, stdout } = onBareMachine("scripts/test.mjs");
  expect([status, stdout]).toEqual([1, ""]);
  expect(stderr).toMatch(
    /^Missing tools, and this machine has no apt-get: chromium, chromium-headless-shell, mtools, .*, adb, fastboot\.\n$/,
  );
});

test("with apt-get but without the right to install, it says what to type", () => {
  writeFileSync(join(folder, "apt-get"), "#!/bin/sh\nexit 100\n");
  chmodSync(join(folder, "apt-get"), 0o755);
  chmodSync(folder, 0o755);
  const nobody = process.getuid?.() === 0 ? { uid: 65_534, gid: 65_534 } : {};
  const { status, stderr } = onBareMachine("scripts/test.mjs", nobody);
  expect(status).toBe(1);
  expect(stderr).toMatch(
    /^Missing tools, and no right to install them; install them with: apt-get install chromium chromium-headless-shell mtools [^\n]*\n$/,
  );
});

test("an installation that fails is said with its own words, and what to type", () => {
  if (process.getuid?.() !== 0) return;
  writeFileSync(join(folder, "apt-get"), '#!/bin/sh\necho "E: the mirror is gone" >&2\nexit 100\n');
  const { status, stderr } = onBareMachine("scripts/bench.mjs");
  expect(status).toBe(1);
  expect(stderr.trim().split("\n").at(-1)).toMatch(
    /^Debian's packages could not be installed \(E: the mirror is gone\); install them with: apt-get install/,
  );
});
