import { execFileSync } from "node:child_process";
import { mkdtempSync, readdirSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { zipSync } from "fflate";
import { pdfOf } from "../demo/pdf.ts";
import { FatCard } from "./fat-card.ts";

const text = (content: string) => new TextEncoder().encode(content) as Uint8Array<ArrayBuffer>;

/** A drawing that would change its own colour and ask for another file, if it were a page. */
const SCRIPTED = `<?xml version="1.0"?>
<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="320" height="200" onload="document.documentElement.setAttribute('fill','red')">
<script>fetch("/stolen"); parent.document.title = "stolen";</script>
<image xlink:href="http://127.0.0.1:9/stolen.png" width="10" height="10"/>
<rect width="320" height="200" fill="#0e5459"/><circle cx="160" cy="100" r="60" fill="#f4b83a"/></svg>`;
const NESTED = `<svg xmlns="http://www.w3.org/2000/svg" width="100" height="100">${Array.from({ length: 500 }, (_, use) => `<use href="#a${use}"/>`).join("")}</svg>`;

const HOSTILE_PAGE = `<!DOCTYPE html><html><head><meta http-equiv="refresh" content="0;url=http://127.0.0.1:9/stolen"><title>Programme</title>
<script>document.title = "stolen"; fetch("/stolen");</script></head><body><p>The crocodile enters.</p><img src="http://127.0.0.1:9/stolen.png"></body></html>`;
const LETTER = `<w:document xmlns:w="w"><w:body><w:p><w:r><w:t>Ilse plays the lantern.</w:t></w:r></w:p></w:body></w:document>`;

/** What somebody may keep on a card, by name: samples by real tools (test/samples/README.md), and texts and documents made here. */
export function viewedFiles(): Map<string, Uint8Array<ArrayBuffer>> {
  const folder = mkdtempSync(join(tmpdir(), "jubar-viewed-"));
  try {
    execFileSync("tar", ["-xzf", new URL("samples/files.tar.gz", import.meta.url).pathname, "-C", folder]);
    const files = new Map(readdirSync(folder).map((name) => [name, new Uint8Array(readFileSync(join(folder, name)))]));
    const fonts = new URL("../node_modules/@fontsource-variable/atkinson-hyperlegible-mono/files/", import.meta.url).pathname;
    const [font] = readdirSync(fonts).filter((name) => name.endsWith("latin-wght-normal.woff2"));
    files.set("letters.woff2", new Uint8Array(readFileSync(join(fonts, font))));
    files.set("broken.ttf", files.get("letters.woff2")?.slice(0, 5000) ?? new Uint8Array());
    files.set("lantern.svg", text(SCRIPTED));
    files.set("nested.svg", text(NESTED));
    files.set("cast.csv", text('name,part,evenings\nIlse,Lantern,12\nAna,"Moon, the",9\nMirela,<b>Crocodile</b>,11\n'));
    files.set(
      "letter.txt",
      text("Dear Ilse,\n\nthe moon rig arrived, and the barn is still wet.\nWho has the key to the second wagon?\n\nAna\n"),
    );
    files.set("stage.json", text('{"stage":{"lamps":40,"moon":true},"evenings":[1,2,3]}'));
    files.set("page.html", text(HOSTILE_PAGE));
    files.set(
      "wagon.eml",
      text(
        "From: Ana <ana@teatrul.example>\r\nTo: ilse@wagon.example\r\nSubject: The key\r\nMIME-Version: 1.0\r\n\r\nIt is in the second wagon.\r\n",
      ),
    );
    files.set(
      "part.docx",
      zipSync({ "[Content_Types].xml": text("<Types/>"), "word/document.xml": text(LETTER) }) as Uint8Array<ArrayBuffer>,
    );
    files.set(
      "programme.pdf",
      pdfOf(
        ["Teatrul Lumina", "The Crocodile and the Moon", "Third page"],
        'app.alert("stolen"); this.submitForm("http://127.0.0.1:9/stolen");',
      ),
    );
    return files;
  } finally {
    rmSync(folder, { recursive: true });
  }
}

/** All of them on a card. */
export function viewingCard(): Uint8Array {
  const card = new FatCard({ mebibytes: 36 });
  for (const [name, content] of viewedFiles()) card.put(`/${name}`, content);
  const bytes = card.bytes();
  card.remove();
  return bytes;
}
