import { htmlText } from "./html-text.ts";
import type { WrittenFile } from "./write.ts";

/** What a summary says of its job. Times are milliseconds since 1970. */
export interface SummaryFacts {
  readonly ticket: string;
  readonly customer: string;
  readonly device: string;
  /** The media that was read from. */
  readonly media: readonly { readonly name: string; readonly bytes: number }[];
  readonly at: number;
  readonly files: readonly WrittenFile[];
  /** What was asked for, and how much of what was given answers it. */
  readonly wants?: readonly { readonly words: string; readonly given: number }[];
}

const OUTCOME = {
  equal: "written and read back equal",
  holes: "written with holes and read back equal",
  different: "not equal when read back",
  failed: "could not be written",
} as const;

/** The hand-over as a page of its own: no script, nothing loaded, every name escaped. */
export function summaryPage(facts: SummaryFacts): string {
  const good = facts.files.filter(({ outcome }) => outcome === "equal").length;
  const holed = facts.files.filter(({ outcome }) => outcome === "holes");
  const holes =
    holed.length === 0
      ? ""
      : `<dt>Not all of it</dt><dd>${holed.length} more written with holes: ${holed.reduce((sum, { lost }) => sum + lost, 0).toLocaleString("en")} bytes could not be read from the medium, and zeros stand there</dd>`;
  const asked = (facts.wants ?? [])
    .map(
      ({ words, given }) =>
        `<dt>Asked for</dt><dd>${htmlText(words)}: ${given === 0 ? "nothing given" : `${given.toLocaleString("en")} given`}</dd>`,
    )
    .join("");
  const row = ({ item, path, outcome, because, sha256, bytes }: WrittenFile) =>
    `<tr><td>${htmlText(path)}</td><td>${htmlText(item.about)}</td><td class="n">${bytes.toLocaleString("en")}</td>` +
    `<td>${htmlText(because ?? OUTCOME[outcome])}</td><td class="h">${sha256 ?? ""}</td></tr>`;
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Ticket ${htmlText(facts.ticket)}: what was given back</title>
<style>
body{font:16px/1.5 "Atkinson Hyperlegible Next",system-ui,sans-serif;color:#20242b;background:#fffdf7;max-width:70rem;margin:2rem auto;padding:0 1.5rem}
table{border-collapse:collapse;width:100%;font-size:14px}td,th{text-align:left;padding:.35rem .6rem;border-bottom:1px solid #d9cfbc;vertical-align:top}
.n{text-align:right}.h{font-family:monospace;font-size:11px;word-break:break-all;min-width:16rem}dl{display:grid;grid-template-columns:max-content 1fr;gap:.2rem 1rem}dd{margin:0}
</style></head><body>
<h1>Ticket ${htmlText(facts.ticket)}: what was given back</h1>
<dl><dt>Customer</dt><dd>${htmlText(facts.customer || "not noted")}</dd><dt>Device</dt><dd>${htmlText(facts.device || "not noted")}</dd>
<dt>Read from</dt><dd>${facts.media.map(({ name, bytes }) => `${htmlText(name)}, ${bytes.toLocaleString("en")} bytes`).join("<br>")}; nothing was written to ${facts.media.length === 1 ? "it" : "them"}</dd>
<dt>When</dt><dd>${new Date(facts.at).toISOString().slice(0, 16).replace("T", " ")} UTC</dd>
${asked}<dt>Result</dt><dd>${good} of ${facts.files.length} files written, read back and found equal (SHA-256)</dd>${holes}</dl>
<table><thead><tr><th>File</th><th>Was, and is</th><th class="n">Bytes</th><th>Check</th><th>SHA-256</th></tr></thead>
<tbody>
${facts.files.map(row).join("\n")}
</tbody></table>
</body></html>
`;
}
