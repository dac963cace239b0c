/** A PDF (ISO 32000-1 §7.5) with a line of text on each page, and a script that a reader would run when it opens it (§12.6.4.16). */
export function pdfOf(lines: readonly string[], script: string): Uint8Array<ArrayBuffer> {
  const objects = [
    `<< /Type /Catalog /Pages 2 0 R /OpenAction << /S /JavaScript /JS (${script.replace(/[()\\]/g, "\\$&")}) >> >>`,
    `<< /Type /Pages /Count ${lines.length} /Kids [${lines.map((_, page) => `${4 + page * 2} 0 R`).join(" ")}] >>`,
    "<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>",
    ...lines.flatMap((line, page) => {
      const stream = `BT /F1 28 Tf 60 500 Td (${line}) Tj ET\n0.96 0.72 0.23 rg 60 300 ${100 + page * 60} 120 re f`;
      return [
        `<< /Type /Page /Parent 2 0 R /MediaBox [0 0 420 595] /Resources << /Font << /F1 3 0 R >> >> /Contents ${5 + page * 2} 0 R >>`,
        `<< /Length ${stream.length} >>\nstream\n${stream}\nendstream`,
      ];
    }),
  ];
  let file = "%PDF-1.7\n";
  const places = objects.map((object, index) => {
    const at = file.length;
    file += `${index + 1} 0 obj\n${object}\nendobj\n`;
    return at;
  });
  const table = file.length;
  file += `xref\n0 ${objects.length + 1}\n0000000000 65535 f \n${places.map((at) => `${String(at).padStart(10, "0")} 00000 n \n`).join("")}`;
  file += `trailer\n<< /Size ${objects.length + 1} /Root 1 0 R >>\nstartxref\n${table}\n%%EOF\n`;
  return new TextEncoder().encode(file) as Uint8Array<ArrayBuffer>;
}
