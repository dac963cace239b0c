import "fake-indexeddb/auto";
import { beforeEach, expect, test } from "vitest";
import { foundPart, hangingFile } from "../../../test/phone-parts.ts";
import { emptyDatabase, ticketOf } from "../../../test/tab.ts";
import { installBrowser } from "../../../test/web-locks.ts";
import { database, loadPart } from "../../kept/database.ts";
import { tellAll } from "../../kept/news.ts";
import { Ownership } from "../../kept/ownership.ts";
import { PartDesk } from "./part-desk.ts";

installBrowser();
beforeEach(emptyDatabase);

/** A bench on which nothing lies. */
const desk = () => new PartDesk({ bySerial: () => null, allBySerial: () => [] });

test("a copy that cannot begin says why, and keeps nobody else from the medium", async () => {
  const medium = await foundPart((await ticketOf()).job);
  expect(await desk().copy(medium, null, false)).toEqual({ ok: false, because: "It is not chosen yet where the copy goes." });
  expect(await Ownership.isTaken(medium)).toBe(false);
  await database.parts.update(medium, {
    mark: { done: 512, hash: new Uint8Array(3), unreadable: [] },
    place: { kind: "browser", file: "x" },
  });
  // No browser's storage here: what cannot be opened is said, and the right is given back.
  expect(await desk().copy(medium, null, false)).toEqual({ ok: true });
  await expect.poll(async () => (await loadPart(medium))?.status).toBe("failed");
  await expect.poll(() => Ownership.isTaken(medium)).toBe(false);
});

test("two beginnings at once are one copy; what is ended lets go", async () => {
  const medium = await foundPart((await ticketOf()).job);
  const parts = desk();
  const begun = await Promise.all([parts.copy(medium, hangingFile(), false), parts.copy(medium, hangingFile(), false)]);
  expect(begun).toEqual([{ ok: true }, { ok: true }]);
  expect(await desk().copy(medium, hangingFile(), false)).toMatchObject({ ok: false, because: expect.stringMatching(/worked on already/) });
  tellAll({ type: "end", media: [medium] });
  await expect.poll(() => Ownership.isTaken(medium)).toBe(false);
});

test("a part that was removed meanwhile is refused; nobody waits for a port that is not served", async () => {
  const medium = await foundPart((await ticketOf()).job);
  await database.parts.delete(medium);
  const gone = "This part was removed from its ticket.";
  expect(await desk().copy(medium, hangingFile(), false)).toEqual({ ok: false, because: gone });
  await expect(desk().port(medium)).rejects.toThrow(gone);
  expect(await desk().lacks(medium)).toBe("");
});
