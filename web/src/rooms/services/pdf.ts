/** A PDF of one page that is a picture (ISO 32000-1: 7.5.2 to 7.5.5, and 7.4.8 for the JPEG in it). */

/** The page of a picture of so many pixels, 96 of them an inch; `jpeg` may be drawn finer than that. */
export function pdfOf(jpeg: Uint8Array, drawn: [number, number], page: [number, number]): Blob {
  const [width, height] = page.map((n) => Math.round(n * 75) / 100);
  const shown = `q ${width} 0 0 ${height} 0 0 cm /P Do Q`;
  const objects: (string | Uint8Array)[][] = [
    ["<< /Type /Catalog /Pages 2 0 R >>"],
    ["<< /Type /Pages /Kids [3 0 R] /Count 1 >>"],
    [
      `<< /Type /Page /Parent 2 0 R /MediaBox [0 0 ${width} ${height}] /Contents 4 0 R /Resources << /XObject << /P 5 0 R >> >> >>`,
    ],
    [`<< /Length ${shown.length} >>\nstream\n${shown}\nendstream`],
    [
      `<< /Type /XObject /Subtype /Image /Width ${drawn[0]} /Height ${drawn[1]} /ColorSpace /DeviceRGB /BitsPerComponent 8 /Filter /DCTDecode /Length ${jpeg.length} >>\nstream\n`,
      jpeg,
      "\nendstream",
    ],
  ];
  const parts: (string | Uint8Array)[] = [];
  let at = 0;
  const put = (part: string | Uint8Array) => {
    parts.push(part);
    at += part.length; // what is text here is ASCII
  };
  put("%PDF-1.4\n");
  const where = objects.map((body, n) => {
    const begins = at;
    put(`${n + 1} 0 obj\n`);
    body.forEach(put);
    put("\nendobj\n");
    return begins;
  });
  const table = at;
  const rows = where.map((n) => `${String(n).padStart(10, "0")} 00000 n \n`).join("");
  put(`xref\n0 ${objects.length + 1}\n0000000000 65535 f \n${rows}`);
  put(`trailer\n<< /Size ${objects.length + 1} /Root 1 0 R >>\nstartxref\n${table}\n%%EOF\n`);
  return new Blob(parts as BlobPart[], { type: "application/pdf" });
}
