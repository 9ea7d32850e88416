import { toast } from "sonner";
import { t } from "../../words";
import { pdfOf } from "./pdf";

interface Props {
  /** What the files are called, without their ending. */
  name: string;
  filter: string;
  at: string | undefined;
  /** The id of the element whose picture can be taken out as well. */
  picture?: string;
}

/** What is shown, taken out of Tarn: the picture as SVG or PNG, and the edges it is made of as CSV or GraphML. */
export function TakeOut({ name, filter, at, picture }: Props) {
  const query = new URLSearchParams({ filter, ...(at ? { as_of: at } : {}) });
  const drawn = () => {
    const svg = document.getElementById(picture ?? "")?.querySelector("svg[role=group]");
    return svg instanceof SVGSVGElement ? standing(svg) : null;
  };
  const take = async (make: (svg: SVGSVGElement) => Promise<Blob>, ending: string) => {
    const svg = drawn();
    if (!svg) return void toast.error(t("There is no picture to take out."));
    save(await make(svg), `${name}.${ending}`);
  };
  return (
    <span className="flex flex-wrap gap-1.5 text-[12.5px]">
      <span className="dim">{t("Take out:")}</span>
      {picture && (
        <>
          <button type="button" className="link-quiet" onClick={() => void take(asSvg, "svg")}>
            {t("SVG")}
          </button>
          <button type="button" className="link-quiet" onClick={() => void take(asPng, "png")}>
            {t("PNG")}
          </button>
          <button type="button" className="link-quiet" onClick={() => void take(asPdf, "pdf")}>
            {t("PDF")}
          </button>
        </>
      )}
      <a className="link-quiet" href={`/api/services/edges/graphml?${query}`} download>
        {t("GraphML")}
      </a>
      <a className="link-quiet" href={`/api/services/edges/csv?${query}`} download>
        {t("CSV")}
      </a>
    </span>
  );
}

const INLINE = [
  "fill",
  "stroke",
  "stroke-width",
  "stroke-dasharray",
  "opacity",
  "font-size",
  "font-weight",
  "font-family",
  "text-anchor",
];

/** A copy of a picture that stands alone: what style sheets and variables say is written into it. */
function standing(svg: SVGSVGElement): SVGSVGElement {
  const copy = svg.cloneNode(true) as SVGSVGElement;
  const [theirs, ours] = [svg.querySelectorAll("*"), copy.querySelectorAll("*")];
  theirs.forEach((element, n) => {
    const told = getComputedStyle(element);
    const mine = ours[n];
    for (const name of INLINE) mine?.setAttribute(name, told.getPropertyValue(name));
    mine?.removeAttribute("class");
    mine?.removeAttribute("tabindex");
  });
  const box = svg.viewBox.baseVal;
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  copy.setAttribute("width", String(box.width));
  copy.setAttribute("height", String(box.height));
  copy.removeAttribute("class");
  copy.removeAttribute("style");
  return copy;
}

async function asSvg(svg: SVGSVGElement): Promise<Blob> {
  return new Blob([new XMLSerializer().serializeToString(svg)], { type: "image/svg+xml" });
}

/** Drawn twice as large as it is told, so that its letters can be read on paper. */
async function drawnOf(svg: SVGSVGElement): Promise<HTMLCanvasElement> {
  const image = new Image();
  const text = new XMLSerializer().serializeToString(svg);
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`;
  await image.decode();
  const canvas = document.createElement("canvas");
  [canvas.width, canvas.height] = [image.width * 2, image.height * 2];
  const context = canvas.getContext("2d");
  if (!context) throw new Error(t("This browser draws no pictures."));
  context.fillStyle = getComputedStyle(document.body).backgroundColor;
  context.fillRect(0, 0, canvas.width, canvas.height);
  context.drawImage(image, 0, 0, canvas.width, canvas.height);
  return canvas;
}

function blobOf(canvas: HTMLCanvasElement, type: string): Promise<Blob> {
  return new Promise((done, failed) =>
    canvas.toBlob(
      (blob) => (blob ? done(blob) : failed(new Error(t("The picture could not be made.")))),
      type,
      0.92,
    ),
  );
}

async function asPng(svg: SVGSVGElement): Promise<Blob> {
  return blobOf(await drawnOf(svg), "image/png");
}

async function asPdf(svg: SVGSVGElement): Promise<Blob> {
  const canvas = await drawnOf(svg);
  const jpeg = new Uint8Array(await (await blobOf(canvas, "image/jpeg")).arrayBuffer());
  return pdfOf(jpeg, [canvas.width, canvas.height], [canvas.width / 2, canvas.height / 2]);
}

function save(blob: Blob, name: string) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}
