const inHtml = (text: string) => text.replace(/&/g, "&amp;").replace(/</g, "&lt;").replace(/>/g, "&gt;");

/** Put lines of cells into the clipboard, as text by tabs and as a table, so that a spreadsheet and a letter take it. */
export async function copyTable(lines: string[][]): Promise<void> {
  const plain = lines.map((l) => l.map((c) => c.replace(/[\t\n]/g, " ")).join("\t")).join("\n");
  if (typeof ClipboardItem === "undefined") return navigator.clipboard.writeText(plain);
  const html = `<table>${lines.map((l) => `<tr>${l.map((c) => `<td>${inHtml(c)}</td>`).join("")}</tr>`).join("")}</table>`;
  await navigator.clipboard.write([
    new ClipboardItem({
      "text/plain": new Blob([plain], { type: "text/plain" }),
      "text/html": new Blob([html], { type: "text/html" }),
    }),
  ]);
}
