/**
 * Named patches that each take away one thing that Jubar must not be without. A test has to fail under every one of them:
 * where none does, the tests have a hole. `npm run holes` tries them all in a scratch copy.
 */
export interface Hole {
  /** What would go wrong, in words. */
  readonly name: string;
  readonly file: string;
  /** Stands in the file exactly once … */
  readonly from: string;
  /** … and is replaced by this. */
  readonly to: string;
  /** Test files of which one must fail. */
  readonly tests: readonly string[];
}

const SQLITE = ["core/sqlite/overflow.test.ts"];
const HEADERLESS = ["core/sqlite/headerless.test.ts"];
const ALIKE = ["core/sqlite/alike.test.ts"];
const GRIDS = ["core/scan/other-grids.test.ts"];
const EXT4 = ["core/filesystems/ext4/extent-tree.test.ts"];
const ARCHIVES = ["core/scan/archived-finds.test.ts"];
const ROWS = ["web/worker/scan/row-book.test.ts"];
const COLUMNS = ["core/sqlite/rows/row-columns.test.ts"];
const INDEX = ["core/finds/find-index.test.ts"];

const BOUND = ["web/worker/looking/bound-worker.test.ts"];
const TEXTS = ["web/worker/looking/texts.test.ts"];
const SHOWN = ["web/worker/reading/what-is-shown.test.ts"];
const QUEUE = ["web/session/preview-queue.test.ts"];
const SAMPLES = ["core/filetypes/samples.test.ts"];
const BLOBS = ["core/bytes/blob-source.test.ts"];
const PATIENCE = ["core/bytes/patient-source.test.ts"];
const CONDUCTOR = ["core/work/conductor.test.ts"];
const BREAKS = ["core/scan/breaks.test.ts"];
const SESSION = ["web/session/session.test.ts"];
const COPIES = ["web/session/copies.test.ts"];
const FOUND = ["web/worker/finds/index-desk.test.ts"];

export const HOLES: readonly Hole[] = [
  {
    name: "frames of a log that were never committed are taken for what the database holds now",
    file: "core/sqlite/files/wal.ts",
    from: "current: frame.isNow && index <= lastCommit",
    to: "current: frame.isNow",
    tests: SQLITE,
  },
  {
    name: "pages of half the size are told from a database without a header",
    file: "core/sqlite/files/headerless.ts",
    from: " && highest >= form.usable / 2;",
    to: ";",
    tests: HEADERLESS,
  },
  {
    name: "a database without a header has its texts in UTF-8",
    file: "core/sqlite/files/told-encoding.ts",
    from: "if (this.#utf16 <= this.#utf8) return",
    to: "if (this.#utf16 <= Infinity) return",
    tests: HEADERLESS,
  },
  {
    name: "pages of a schema that nothing leads to are nobody's",
    file: "core/sqlite/survey/read-schema.ts",
    from: "if (entries === header.cells && ledger",
    to: "if (entries < 0 && ledger",
    tests: HEADERLESS,
  },
  {
    name: "rows of an app that nobody knows are called by the names of another one's tables",
    file: "core/sqlite/tables/owner-by-cells.ts",
    from: "if (strict && (fit.width",
    to: "if (!page && (fit.width",
    tests: HEADERLESS,
  },
  {
    name: "without a schema nothing of a database comes back",
    file: "core/sqlite/survey/nameless.ts",
    from: "if (width === 0 || ",
    to: "if (width >= 0 || ",
    tests: HEADERLESS,
  },
  {
    name: "overflow pages of living rows are taken for erased ones",
    file: "core/sqlite/survey/overflow.ts",
    from: "      this.#ledger.take(page, Role.overflow);\n",
    to: "",
    tests: SQLITE,
  },
  {
    name: "an overflow chain may go on behind its last page",
    file: "core/sqlite/survey/overflow.ts",
    from: "if (isLast !== (next === 0)) continue;",
    to: "if (!isLast && next === 0) continue;",
    tests: SQLITE,
  },
  {
    name: "blocks that were reserved but never written are given out as a file's",
    file: "core/filesystems/ext4/content-map.ts",
    from: "physical: unwritten ? null : physical",
    to: "physical",
    tests: EXT4,
  },
  {
    name: "a node of an extent tree may be of any depth",
    file: "core/filesystems/ext4/content-map.ts",
    from: " || ExtentHeader.eh_depth(copy, 0) !== expected.depth",
    to: "",
    tests: EXT4,
  },
  {
    name: "the check sums of extent blocks are not asked",
    file: "core/filesystems/ext4/content-map.ts",
    from: "    if (context.seed !== null && !extentBlockHolds(inodeSeed(context.seed, inode.number, inode.generation), copy)) continue;\n",
    to: "",
    tests: EXT4,
  },
  {
    name: "a backup's key is taken without its check sum",
    file: "core/backup/keys.ts",
    from: "return equalBytes(await stretched(asPassword(key, version), encryption.checksumSalt, encryption.rounds), checksum) ? { key, iv } : null;",
    to: "return checksum ? { key, iv } : null;",
    tests: ["core/backup/backup.test.ts"],
  },
  {
    name: "the place of a damaged find counts as proven to be its own",
    file: "core/scan/claims.ts",
    from: 'if (find.condition !== "damaged") for',
    to: "for",
    tests: ["core/scan/claims.test.ts"],
  },
  {
    name: "only the first pack of finds is written down",
    file: "web/worker/scan/find-book.ts",
    from: "return [...this.#dirty].flatMap(",
    to: "return [...this.#dirty].slice(0, 1).flatMap(",
    tests: ["web/worker/scan/find-book.test.ts"],
  },
  {
    name: "a run of empty blocks may reach over the end of a JPEG's scan",
    file: "core/filetypes/jpeg/jpeg.ts",
    from: " && !walk.unfinishedRun",
    to: "",
    tests: ["core/filetypes/jpeg/jpeg.test.ts"],
  },
  {
    name: "any marker restarts a JPEG, whatever its number",
    file: "core/filetypes/jpeg/jpeg.ts",
    from: "feed.marker?.code !== expected",
    to: "!feed.marker",
    tests: ["core/filetypes/jpeg/jpeg.test.ts"],
  },
  {
    name: "exFAT's boot region is taken without its check sum",
    file: "core/filesystems/exfat/geometry.ts",
    from: "if (bootChecksum(bytes.subarray(0, CHECKSUM_SECTOR * geometry.sectorBytes)) === stored)",
    to: "if (stored >= 0)",
    tests: ["core/filesystems/exfat/exfat.test.ts"],
  },
  {
    name: "a FAT chain that ends in a bad cluster is called complete",
    file: "core/filesystems/clusters/cluster-map.ts",
    from: "if (next >= Link.end) return",
    to: "if (next >= Link.bad) return",
    tests: ["core/filesystems/fat/fat.test.ts"],
  },
  {
    name: "nodes from the future are nodes of this volume",
    file: "core/filesystems/f2fs/old-nodes.ts",
    from: "footer.version === 0 || footer.version > this.#newest + 1",
    to: "footer.version === 0",
    tests: ["core/filesystems/f2fs/f2fs.test.ts"],
  },
  {
    name: "a raw chunk of a sparse image may be shorter than it says",
    file: "core/medium/sparse-image.ts",
    from: "      if (body < length) break;\n",
    to: "",
    tests: ["core/medium/sparse-image.test.ts"],
  },
  {
    name: "a fill chunk of a sparse image may be without its value",
    file: "core/medium/sparse-image.ts",
    from: "if (body < 4 || ",
    to: "if (",
    tests: ["core/medium/sparse-image.test.ts"],
  },
  {
    name: "a list of practice media may lead out of its folder",
    file: "server/practice.ts",
    from: "packed: z.string().regex(/^[\\w.-]+\\.gz$/)",
    to: "packed: z.string()",
    tests: ["server/server.test.ts"],
  },
  {
    name: "a request may ask for as many bytes at once as it likes",
    file: "server/media.ts",
    from: " || last - first >= MAX_RANGE",
    to: "",
    tests: ["server/server.test.ts"],
  },
  {
    name: "the last day of a filter is not asked",
    file: "core/finds/find-index.ts",
    from: "(day < days.from || day > days.to)",
    to: "day < days.from",
    tests: INDEX,
  },
  {
    name: "an order of finds is kept when a find is learned anew",
    file: "core/finds/find-index.ts",
    from: "    this.#orders.touch(row);\n",
    to: "",
    tests: INDEX,
  },
  {
    name: "what is handed over is not held against the hash of the scan",
    file: "core/handover/write.ts",
    from: "file.item.sha256 !== null && file.item.sha256 !== hash",
    to: "file.find.sha256 === undefined",
    tests: ["core/handover/handover.test.ts"],
  },
  {
    name: "what a full storage did not take is never written",
    file: "web/worker/scan/scan-work.ts",
    from: "    await keeper.keep({",
    to: "    this.#book?.settle(packs);\n    await keeper.keep({",
    tests: SESSION,
  },
  {
    name: "a dead sector is asked for as often as anybody wants it",
    file: "core/bytes/place-ledger.ts",
    from: "export const TRIES = 4;",
    to: "export const TRIES = 40;",
    tests: PATIENCE,
  },
  {
    name: "zeros of a medium that is gone are given out as its bytes",
    file: "core/bytes/patient-source.ts",
    from: "    if (this.#doubted.length > 0) await this.#isThere();\n",
    to: "",
    tests: PATIENCE,
  },
  {
    name: "what is sound beside a dead sector is read sector by sector in every pass",
    file: "core/bytes/place-ledger.ts",
    from: "return unsure ? unsure.offset : to;",
    to: "return offset;",
    tests: PATIENCE,
  },
  {
    name: "sound places that do not read together are tried together after every restart",
    file: "core/bytes/place-ledger.ts",
    from: "unsure: this.#unsure.list(),",
    to: "unsure: [],",
    tests: PATIENCE,
  },
  {
    name: "a large stretch that failed once is read by the few bytes that are asked for",
    file: "core/bytes/patient-source.ts",
    from: "if (!this.#ledger.mayBeSound(offset, length)) throw",
    to: "if (length > 0) throw",
    tests: PATIENCE,
  },
  {
    name: "what is chosen of a medium that lies aside counts as given back",
    file: "core/finds/find-index.ts",
    from: "return row === undefined || this.#gone[row] === 1 ? undefined : row;",
    to: "return row;",
    tests: [...FOUND, ...SESSION],
  },
  {
    name: "a window shows another find where a pack was written anew",
    file: "web/worker/finds/index-desk.ts",
    from: "if (!find || findKey(medium, find.id) !== key) return null;",
    to: "if (!find) return null;",
    tests: FOUND,
  },
  {
    name: "what another ticket's scan keeps is merged into this one's finds",
    file: "web/worker/finds/index-desk.ts",
    from: 'if (!("job" in notice) || notice.job !== this.#job) return;',
    to: 'if (!("job" in notice)) return;',
    tests: FOUND,
  },
  {
    name: "a tab that copies is closed without asking",
    file: "web/session/medium-desk.ts",
    from: ", isHere && isUnderWay(copy.status));",
    to: ", false);",
    tests: COPIES,
  },
  {
    name: "two who want the same stretch at once ask a dying medium twice",
    file: "core/bytes/patient-source.ts",
    from: "      if (!other) break;",
    to: "      break;",
    tests: PATIENCE,
  },
  {
    name: "a medium is known by bytes that did not read",
    file: "core/medium/sample.ts",
    from: "yield ledger.lost.overlap(at, length) > 0 ? null : bytes;",
    to: "yield bytes;",
    tests: ["core/medium/sample.test.ts"],
  },
  {
    name: "two beginnings at once are two scans",
    file: "core/work/conductor.ts",
    from: "this.#life ??= this.#live()",
    to: "this.#life = this.#live()",
    tests: CONDUCTOR,
  },
  {
    name: "what could not be kept counts as kept",
    file: "core/work/conductor.ts",
    from: '        this.#say("held", because);\n        await command;',
    to: "        return true;",
    tests: CONDUCTOR,
  },
  {
    name: "a late answer of a reader is taken after a stop",
    file: "core/work/conductor.ts",
    from: 'if (step === "late") {',
    to: 'if (step === "late" && this.#isEnding) {',
    tests: CONDUCTOR,
  },
  {
    name: "rows of a database are told again by a scan that goes on",
    file: "core/scan/records.ts",
    from: "const before = at === from.at ? from.told : 0;",
    to: "const before = 0 * from.told;",
    tests: BREAKS,
  },
  {
    name: "files that were judged before a break are told anew",
    file: "core/scan/listing.ts",
    from: "const told = ++at > judged ?",
    to: "const told = ++at > 0 ?",
    tests: BREAKS,
  },
  {
    name: "a deep scan goes on where a quick one ended",
    file: "core/scan/checkpoint.ts",
    from: 'if (pass === "done" || covers.depth !== depth) return false;',
    to: 'if (covers.depth !== depth) return pass === "done";',
    tests: SESSION,
  },
  {
    name: "what an earlier scan found stays beside what the new one found",
    file: "web/worker/finds/index-desk.ts",
    from: "this.#index.keptAt(row).pack === number) this.#index.forget(key);",
    to: "this.#index.keptAt(row).pack === -1) this.#index.forget(key);",
    tests: SESSION,
  },
  {
    name: "a tab whose right was taken still writes",
    file: "web/kept/ownership.ts",
    from: "if (this.#isLost || row.owner !== this.number) throw",
    to: "if (row.owner < 0) throw",
    tests: SESSION,
  },
  {
    name: "who holds a part of a word counts as holding the whole",
    file: "core/finds/word-matches.ts",
    from: "if (!isSame) for",
    to: "if (!from) for",
    tests: INDEX,
  },
  {
    name: "what a find was called is what it is found by for ever",
    file: "core/finds/find-index.ts",
    from: "    this.#matches.touch(row);\n",
    to: "",
    tests: INDEX,
  },
  {
    name: "the same thing in two places is counted twice",
    file: "core/finds/find-index.ts",
    from: "if (group[row] === 0) {",
    to: "if (group[row] >= 0) {",
    tests: INDEX,
  },
  {
    name: "an order that is mended loses its order",
    file: "core/finds/find-orders.ts",
    from: "compare(fresh[next], row) < 0",
    to: "compare(fresh[next], row) > 0",
    tests: INDEX,
  },
  {
    name: "a carved picture ends at its first dead sector",
    file: "core/scan/grade.ts",
    from: "return lost.length > 0 ? type.endBehind(",
    to: "return lost.length < 0 ? type.endBehind(",
    tests: ["core/scan/behind-dead.test.ts"],
  },
  {
    name: "a mark of a copy promises what is not in its file yet",
    file: "core/medium/copying.ts",
    from: "if (!target || (await target.settle(isResting))) this.#lasting = this.#mark;",
    to: "await target?.settle(isResting);\n    this.#lasting = this.#mark;",
    tests: ["core/medium/copying.test.ts"],
  },
  {
    name: "contents are sought only where files of the present volume can begin",
    file: "core/scan/detect/followed-contents.ts",
    from: "if (!sector.onGrid) return offGrid(type, sector);",
    to: "if (!sector.onGrid) return NOTHING_SEEN;",
    tests: GRIDS,
  },
  {
    name: "entries and contents of one size say nothing of how a former volume was laid out",
    file: "core/filesystems/former/former-volumes.ts",
    from: "return places.length > MAX_ALIKE ? [] :",
    to: "return places.length >= 0 ? [] :",
    tests: GRIDS,
  },
  {
    name: "a superblock's copy says nothing of where a former volume's blocks began",
    file: "core/filesystems/former/former-volumes.ts",
    from: "if (logBlock > 6 || group === 0 ||",
    to: "if (logBlock >= 0 || group === 0 ||",
    tests: GRIDS,
  },
  {
    name: "what a detector decides on at the end is forgotten at a break",
    file: "core/scan/sweep.ts",
    from: "this.#kept.set(detector.name, kept);",
    to: "this.#kept.set(detector.name, []);",
    tests: GRIDS,
  },
  {
    name: "a content and the entry that speaks of it are told as two finds",
    file: "core/scan/listing.ts",
    from: ": claims.contentAt(begins, find.size);",
    to: ": undefined;",
    tests: GRIDS,
  },
  {
    name: "a file that is there is what its ending says",
    file: "core/scan/listed-find.ts",
    from: "{ ...listed, format: await formatOf(type, content, promiseOf(file)), pixels",
    to: "{ ...listed, pixels",
    tests: ["core/scan/listed.test.ts"],
  },
  {
    name: "a row in what a page held before is of the table that the page is of now",
    file: "core/sqlite/free-space/examine-page.ts",
    from: "noted(rows, gap.unallocated || !isOwners)",
    to: "noted(rows, false)",
    tests: ALIKE,
  },
  {
    name: "a row whose own page is missing is called erased",
    file: "core/sqlite/rows/erased-rows.ts",
    from: 'judging.mayBeLost(candidate) ? "unclear" : "erased"',
    to: '"erased"',
    tests: ALIKE,
  },
  {
    name: "where no schema is left an index is taken for a table",
    file: "core/sqlite/survey/nameless.ts",
    from: "widest(cells) >= LEAST_KEYED && rowids * 2 < cells.length",
    to: "widest(cells) >= LEAST_KEYED && rowids >= 0",
    tests: ALIKE,
  },
  {
    name: "copies of rows that are there are looked for by row id alone",
    file: "core/sqlite/rows/candidates.ts",
    from: "if (!this.#contents.isEmpty && this.#contents.mayHold(",
    to: "if (this.#contents.isEmpty && this.#contents.mayHold(",
    tests: ["core/sqlite/kept-databases.test.ts", "core/sqlite/random-databases.test.ts"],
  },
  {
    name: "sound alone in a video's boxes is a video",
    file: "core/filetypes/followed/iso-media.ts",
    from: 'handlers.includes("soun") && !handlers.includes("vide")',
    to: 'handlers.includes("soun") && handlers.includes("vide")',
    tests: ["core/filetypes/samples.test.ts"],
  },
  {
    name: "gigabytes that a few bytes of an archive claim are unpacked",
    file: "core/scan/archived-finds.ts",
    from: "if (sealed !== null || isMadeUp)",
    to: "if (sealed !== null)",
    tests: ARCHIVES,
  },
  {
    name: "entries of an archive that all lead to the same bytes are all unpacked",
    file: "core/scan/archived-finds.ts",
    from: "this.#taken > holder.size * MOST_SHARED",
    to: "this.#taken < 0",
    tests: ARCHIVES,
  },
  {
    name: "a file whose check sum in the archive does not come out is called whole",
    file: "core/scan/archived-finds.ts",
    from: "if (crc !== null && told.crc !== crc)",
    to: "if (crc !== null && told.crc === -1)",
    tests: ARCHIVES,
  },
  {
    name: "names in an archive lead out of it",
    file: "core/archives/zip-entries.ts",
    from: '.replace(/^(\\.{0,2}\\/+)+/, "")',
    to: '.replace(/^\\/+/, "")',
    tests: ARCHIVES,
  },
  {
    name: "what lies packed is read from wherever its stream is",
    file: "core/archives/stream.ts",
    from: "stream.key !== key || stream.at > from",
    to: "stream.key !== key",
    tests: ["core/handover/handover.test.ts"],
  },
  {
    name: "rows of a database whose scan is still under way are taken for all of them",
    file: "web/worker/reading/kept-rows.ts",
    from: "if (!store?.complete) return null;",
    to: "if (!store) return null;",
    tests: ROWS,
  },
  {
    name: "rows that fill no chunk yet are forgotten when another page goes on",
    file: "web/worker/scan/row-book.ts",
    from: "if (last) open.columns.append(KeptChunk.parse(last), (await database.rests.get(key))?.rests ?? null);",
    to: "",
    tests: ROWS,
  },
  {
    name: "databases of an earlier scan stay when a new one has told everything anew",
    file: "web/worker/scan/scan-keeper.ts",
    from: "if (scan !== firstPack) {",
    to: "if (scan < 0) {",
    tests: ROWS,
  },
  {
    name: "row ids that a number cannot hold exactly are rounded",
    file: "core/sqlite/rows/row-columns.ts",
    from: '...(typeof rowid === "bigint" && { rowid }), ',
    to: "",
    tests: COLUMNS,
  },
  {
    name: "what was written over a formatted volume's file is given out as a part of it",
    file: "core/filesystems/former/former-ext4.ts",
    from: "const placements = file.placements.map((one) => cutToFree(one, now));",
    to: "const placements = file.placements.map((one) => (now ? one : cutToFree(one, now)));",
    tests: GRIDS,
  },
  {
    name: "a copy of a group's descriptor is believed about inodes that came later",
    file: "core/filesystems/ext4/geometry.ts",
    from: "isCopy ? inodesUnknown(readDescriptor(best, geometry)) : readDescriptor(best, geometry)",
    to: "readDescriptor(best, geometry)",
    tests: GRIDS,
  },
  {
    name: "a decoder that never answers is waited for",
    file: "web/worker/looking/bound-worker.ts",
    from: "if (cause instanceof TooLong) this.end();",
    to: "",
    tests: BOUND,
  },
  {
    name: "known dead places are read by players",
    file: "web/worker/reading/as-blob.ts",
    from: "for (const lost of unreadable.within(offset, length)) {",
    to: "for (const lost of unreadable.within(offset, 0)) {",
    tests: SHOWN,
  },
  {
    name: "drawings that are made to cost time are drawn",
    file: "web/worker/reading/drawings.ts",
    from: "count(/<(\\w+:)?use\\b/gi) > MOST_USES",
    to: "count(/<(\\w+:)?use\\b/gi) < 0",
    tests: SHOWN,
  },
  {
    name: "what stands in a script is told as a page's text",
    file: "web/worker/looking/markup.ts",
    from: "if (!isEnd && !isEmpty && manner.skipped.has(name)) skipped = name;",
    to: "",
    tests: TEXTS,
  },
  {
    name: "a part of a document that unpacks to any size is unpacked",
    file: "web/worker/looking/office.ts",
    from: "originalSize > MOST_OF_ONE || ",
    to: "",
    tests: TEXTS,
  },
  {
    name: "what was read by a stream of another place is handed on",
    file: "core/bytes/blob-run.ts",
    from: "if (!goesOn || this.#refused) return null;",
    to: "if (this.#refused || (!goesOn && !this.#open)) return null;",
    tests: BLOBS,
  },
  {
    name: "what is out of sight is drawn all the same",
    file: "web/session/preview-queue.ts",
    from: "const [dropped] = this.#waiting.splice(at, 1);",
    to: "const [dropped] = this.#waiting.slice(at, at + 1);",
    tests: QUEUE,
  },
  {
    name: "sides of a picture are those of its largest tile",
    file: "core/filetypes/followed/iso-sides.ts",
    from: "(chosen.length > 0 ? chosen : all)",
    to: "(chosen.length > Infinity ? chosen : all)",
    tests: SAMPLES,
  },
];
