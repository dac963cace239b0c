import type { ConversationValues, FoundRecord, MessageValues } from "../../finds/record.ts";
import { htmlText } from "../html-text.ts";

/** A conversation as it is told: what it is called, who is in it, and its messages in their order. */
export interface ToldTalk {
  readonly title: string;
  readonly values: ConversationValues;
  readonly messages: readonly FoundRecord[];
}

const day = (at: string | undefined): string => at?.slice(0, 10) ?? "without a date";

/** One conversation as a page of its own: no script, nothing loaded, every word escaped, both sides in order; it prints, and works from a stick. */
export function conversationPage({ title, values, messages }: ToldTalk): string {
  const members = (values.members ?? []).map(({ name, address }) => htmlText([name, address].filter(Boolean).join(", ")));
  let before = "";
  const lines = messages.map((message) => {
    const said = message.values as MessageValues;
    const now = day(said.at);
    const above = now === before ? "" : `<h2>${htmlText(now)}</h2>\n`;
    before = now;
    return above + line(message, said);
  });
  const erased = messages.filter(({ state }) => state === "erased").length;
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'"><title>${htmlText(title)}</title>
<style>
body{font:16px/1.45 "Atkinson Hyperlegible Next",system-ui,sans-serif;color:#20242b;background:#fffdf7;max-width:46rem;margin:2rem auto;padding:0 1rem}
h2{font-size:.9rem;text-align:center;color:#575d67;margin:1.4rem 0 .5rem}
.m{border-radius:10px;padding:.5rem .75rem;margin:.4rem 0;max-width:75%;width:fit-content;background:#ebe4d5;white-space:pre-wrap;overflow-wrap:anywhere;break-inside:avoid}
.out{margin-left:auto;background:#dcebea}.system{margin:.6rem auto;background:none;color:#575d67;text-align:center}
.erased{background:#fffdf7;border:2px solid #20242b}small{display:block;color:#575d67;white-space:normal}
@media print{body{margin:0;background:#fff}}
</style></head><body>
<h1 dir="auto">${htmlText(title)}</h1>
<p>${messages.length} messages${erased > 0 ? `, of them ${erased} that were erased` : ""}. Times are in UTC.${members.length > 0 ? `<br>With ${members.join("; ")}.` : ""}</p>
${lines.join("\n")}
</body></html>
`;
}

function line(
  { state, condition }: FoundRecord,
  { text = "", direction, at, person, address, attachments = [], before = [], edited, draft }: MessageValues,
): string {
  const marks = [
    state === "present" ? null : `● ${state}`,
    condition === "whole" ? null : condition,
    draft ? "draft" : null,
    direction === "in" ? (person ?? address) : direction === "out" ? "sent" : null,
    at?.slice(11, 16),
    edited ? "edited" : null,
  ].filter((mark): mark is string => Boolean(mark));
  const files = attachments.map(({ name, path, type }) => `<small>file: ${htmlText(path ?? name ?? type ?? "not known")}</small>`);
  const earlier = before.map((one) => `<small>before: ${htmlText(one.text)}</small>`);
  const side = direction === "out" ? " out" : direction === "system" ? " system" : "";
  return `<div class="m${side}${state === "erased" ? " erased" : ""}" dir="auto">${htmlText(text)}${files.join("")}${earlier.join("")}<small>${htmlText(marks.join(" · "))}</small></div>`;
}
