import fc from "fast-check";
import { strToU8, zipSync } from "fflate";
import { describe, expect, test } from "vitest";
import { DecodeDesk } from "./decode-desk.ts";
import { HTML, textOfMarkup, withoutReferences } from "./markup.ts";
import { safePage } from "./safe-page.ts";

const desk = new DecodeDesk();
const text = (format: string, content: string | Uint8Array) => desk.text(format, typeof content === "string" ? strToU8(content) : content);
const archive = (parts: Record<string, string>) =>
  zipSync(Object.fromEntries(Object.entries(parts).map(([name, part]) => [name, strToU8(part)])));
const word = (body: string) =>
  archive({
    "[Content_Types].xml": "<Types/>",
    "word/document.xml": `<?xml version="1.0"?><w:document xmlns:w="w"><w:body>${body}</w:body></w:document>`,
  });

describe("office files by their markup", () => {
  test("paragraphs, tabs, breaks and tables of a letter; what was deleted and what a field says to programs is left out (ECMA-376 §17.3)", async () => {
    const body = `<w:p><w:r><w:t xml:space="preserve">The moon </w:t></w:r><w:r><w:t>rig &amp; the lantern</w:t></w:r></w:p>
      <w:p><w:r><w:t>act</w:t><w:tab/><w:t>three</w:t><w:br/><w:t>ends</w:t><w:instrText>PAGE</w:instrText><w:delText>never</w:delText></w:r></w:p>
      <w:tbl><w:tr><w:tc><w:p><w:r><w:t>Ilse</w:t></w:r></w:p></w:tc><w:tc><w:p><w:r><w:t>Lantern</w:t></w:r></w:p></w:tc></w:tr></w:tbl>`;
    const lines = (await text("docx", word(body)))
      .split("\n")
      .map((line) => line.trim())
      .filter(Boolean);
    expect(lines).toEqual(["The moon rig & the lantern", "act\tthree", "ends", "Ilse", "Lantern"]);
  });

  test("slides come in the order of their numbers", async () => {
    const slide = (words: string) => `<p:sld xmlns:p="p" xmlns:a="a"><a:p><a:r><a:t>${words}</a:t></a:r></a:p></p:sld>`;
    const parts = Object.fromEntries([10, 2, 1].map((number) => [`ppt/slides/slide${number}.xml`, slide(`slide ${number}`)]));
    expect(await text("pptx", archive(parts))).toBe("slide 1\n\nslide 2\n\nslide 10");
  });

  test("cells of a sheet: shared texts, numbers, texts of their own (ECMA-376 §18.3)", async () => {
    const shared = "<sst><si><t>name</t></si><si><r><t>Ana </t></r><r><t>&lt;3</t></r></si></sst>";
    const sheet = `<worksheet><sheetData><row r="1"><c r="A1" t="s"><v>0</v></c><c r="B1"><v>12.5</v></c></row>
      <row r="2"><c r="A2" t="s"><v>1</v></c><c r="B2" t="inlineStr"><is><t>Moon</t></is></c><c r="C2"/></row></sheetData></worksheet>`;
    expect(await text("xlsx", archive({ "xl/sharedStrings.xml": shared, "xl/worksheets/sheet1.xml": sheet }))).toBe(
      "name\t12.5\nAna <3\tMoon\t",
    );
  });

  test.each(["odt", "ods", "odp"])("an open document: %s (OpenDocument 1.3 Part 3 §5)", async (format) => {
    const content = `<office:document-content><office:automatic-styles><style:x>no</style:x></office:automatic-styles><office:body>
      <text:h>Act <text:span>three</text:span></text:h><text:p>ends<text:line-break/>here</text:p></office:body></office:document-content>`;
    expect((await text(format, archive({ "content.xml": content }))).split("\n").map((line) => line.trim())).toEqual([
      "Act three",
      "ends",
      "here",
    ]);
  });

  test("a part that claims to unpack to more than may be is not read; broken archives are an error in a word", async () => {
    const bomb = archive({ "word/document.xml": `<w:t>${"a".repeat(25 * 1024 * 1024)}</w:t>` });
    expect(bomb.length).toBeLessThan(100_000);
    expect(await text("docx", bomb)).toBe("");
    await expect(text("docx", bomb.slice(0, 40))).rejects.toThrow();
  });
});

describe("markup", () => {
  test("nothing of a page is run, asked for or taken for text that is none", async () => {
    const page = `<!DOCTYPE html><html><head><meta http-equiv="refresh" content="0;url=//stolen"><title>Programme</title>
      <script>document.write("<p>stolen</p>")</script><style>p{}</style></head><body onload="steal()">
      <p title="a > b">The moon&nbsp;is&#32;up &mdash; &#x1F319;</p><!-- <p>hidden</p> --><iframe src="//stolen">no</iframe>
      <table><tr><td>Ilse</td><td>Lantern</td></tr></table>1 < 2<br>3</body></html>`;
    expect(
      (await text("html", page))
        .split("\n")
        .map((line) => line.trim())
        .filter(Boolean),
    ).toEqual(["Programme", "The moon is up — 🌙", "Ilse\tLantern", "1 < 2", "3"]);
  });

  test("references to characters that are none are left, or cost their own place", () => {
    expect(withoutReferences("&amp;amp; &nothing; &#0; &#xD800; &#x110000; &#65; A&B;")).toBe("&amp; &nothing;    A A&B;");
  });

  test("whatever markup is given, its text is told, and holds no tag that was closed", () => {
    const piece = fc.constantFrom(
      "<p>",
      "</p>",
      "<a ",
      '"',
      "'",
      ">",
      "<",
      "<!--",
      "-->",
      "<script>",
      "</script>",
      "word",
      "&lt;",
      "<?",
      "\n",
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 60 }), (pieces) => {
        expect(textOfMarkup(pieces.join(""), HTML)).not.toMatch(/<\/?p>/);
      }),
      { numRuns: 300 },
    );
    // Two megabytes of broken markup: a way that grows with its square would not come to an end.
    const once = (part: string) => textOfMarkup(part.repeat(20_000), HTML);
    for (const part of ["<a ", '<a "', "<!--", "<![CDATA[", "<script>", "&"]) expect(once(part)).not.toMatch(/<p>/);
  });
});

test("rich text: letters of one byte and of Unicode, lines, tables of fonts left out (RTF 1.9.1)", async () => {
  const source = String.raw`{\rtf1\ansi{\fonttbl{\f0 Serif;}}{\*\generator Somebody;}{\info{\author Ana}}\f0 Caf\'e9 \u259?i luna\par {\b Act} three\line\tab ends \{here\}{\pict 0102}}`;
  expect(await text("rtf", source)).toBe("Café ăi luna\nAct three\n\tends {here}");
});

test("an e-mail: who, when, about what, its text, what is attached (RFC 5322 §A.1.1, RFC 2046 §5.1.1)", async () => {
  const mail = [
    "From: Ana Dorin <ana@teatrul.example>",
    "To: Ilse <ilse@wagon.example>, crew@wagon.example",
    "Subject: =?utf-8?Q?Lun=C4=83_plin=C4=83?=",
    "Date: Sun, 03 May 2026 18:20:40 +0000",
    'Content-Type: multipart/mixed; boundary="b"',
    "MIME-Version: 1.0",
    "",
    "--b",
    "Content-Type: text/html; charset=utf-8",
    "",
    "<p>The barn is <b>wet</b>.</p><script>steal()</script>",
    "--b",
    'Content-Type: application/pdf; name="plan.pdf"',
    'Content-Disposition: attachment; filename="plan.pdf"',
    "Content-Transfer-Encoding: base64",
    "",
    "JVBERi0=",
    "--b--",
  ].join("\r\n");
  const told = await text("eml", mail);
  expect(told).toContain("From: Ana Dorin <ana@teatrul.example>\nTo: Ilse <ilse@wagon.example>, crew@wagon.example");
  expect(told).toContain("Subject: Lună plină\nAttached: plan.pdf");
  expect(told).toMatch(/The barn is wet\./);
  expect(told).not.toContain("steal");
});

test("what nothing here reads is said, and is no failure of another kind", async () => {
  await expect(text("psd", "x")).rejects.toThrow("nothing here reads the text of psd");
});

describe("pages of the web are laid out by an allow-list", () => {
  test("blocks, lists and tables stay, without any attribute; text is text", () => {
    const page =
      '<h1 onclick="x()">Act <em>I</em></h1><ul class=a><li>Moon &amp; barn</ul><table><tr><td width=4>1 &lt; 2</td></tr></table><br/>';
    expect(safePage(page)).toBe("<h1>Act <em>I</em></h1><ul><li>Moon &amp; barn</ul><table><tr><td>1 &lt; 2</td></tr></table><br>");
  });

  test.each([
    ["a script", "<p>a</p><script>steal()</script><p>b</p>", "<p>a</p><p>b</p>"],
    ["a script that is never ended", "<p>a</p><script>steal()", "<p>a</p>"],
    ["a redirect", '<meta http-equiv=refresh content="0;url=//x"><base href="//x"><link rel=stylesheet href=x><p>a', "<p>a"],
    ["a form and a frame", '<form action="//x"><input name=a></form><iframe src="//x">in</iframe>b', "b"],
    ["an image that asks for something", '<img src="//x/y.png" onerror="steal()">a', "a"],
    ["a drawing", "<svg><script>steal()</script></svg>a", "a"],
    ["styles that ask for something", "<style>@import '//x'</style><p style='background:url(//x)'>a", "<p>a"],
    ["a tag in text", "&lt;script&gt;steal()&lt;/script&gt;", "&lt;script&gt;steal()&lt;/script&gt;"],
    ["a tag within a comment, and a comment that never ends", "a<!-- <script> -->b<!-- <p>c", "ab"],
    ["a tag in capitals, with breaks in it", "<SCRIPT\n>steal()</SCRIPT\n>a<IMG\nSRC=x>", "a"],
    ["a bracket that is none", "1 < 2 <3", "1 &lt; 2 &lt;3"],
    ["a title", "<head><title>Programme</title></head><body><p>a", "<p>a"],
  ])("%s", (_, page, laid) => {
    expect(safePage(page)).toBe(laid);
  });

  test("whatever it is made of: only elements of the list, none with an attribute", () => {
    const pieces = [
      "<p>",
      "</p>",
      "<script>",
      "</script>",
      '<a href="javascript:x">',
      "<",
      ">",
      '"',
      "'",
      "&lt;",
      "<!--",
      "-->",
      "<![CDATA[",
      "]]>",
      "<td x='>'>",
      "=",
      "onload",
      "<svg/",
      "\0",
      "<br/>",
      "</style>",
      "<style>",
    ];
    fc.assert(
      fc.property(fc.array(fc.constantFrom(...pieces), { maxLength: 40 }), (some) => {
        for (const [tag] of safePage(some.join("")).matchAll(/<[^<]*>?/g)) expect(tag).toMatch(/^<\/?(p|td|br)>[^<]*$/);
      }),
      { numRuns: 2000 },
    );
  });
});
