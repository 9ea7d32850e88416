import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { capital, count, plural } from "../../parts/format";
import { t } from "../../words";
import { type Placed, placed, WIDTH } from "./layout";
import type { Unfolding } from "./unfolding";

type Picture = Schemas["LayersOut"];
type Box = Schemas["LayerBox"];

const INK: Record<Box["fate"], { fill: string; stroke: string; text: string; dashed?: boolean }> = {
  gone: {
    fill: "var(--color-neutral)",
    stroke: "var(--color-neutral)",
    text: "var(--color-neutral-content)",
  },
  stops: {
    fill: "color-mix(in oklab, var(--color-error) 14%, var(--color-base-100))",
    stroke: "var(--color-error)",
    text: "var(--color-base-content)",
  },
  weakened: {
    fill: "color-mix(in oklab, var(--color-warning) 14%, var(--color-base-100))",
    stroke: "color-mix(in oklab, var(--color-warning) 70%, var(--color-base-content))",
    text: "var(--color-base-content)",
    dashed: true,
  },
  "carries on": {
    fill: "var(--color-base-100)",
    stroke: "var(--color-primary)",
    text: "var(--color-base-content)",
  },
};

const FATES = ["gone", "stops", "weakened", "carries on"] as const;

interface Props {
  picture: Picture;
  at: string | undefined;
  /** How wide it is drawn, in the units of its letters. */
  across?: number;
  /** Boxes whose devices are drawn one by one, where that may be chosen. */
  unfolding?: Unfolding;
}

/**
 * What stands on what, drawn: each layer rests on those below it, and what is alike is one box. The list says the same,
 * and stands alone where there is no room for a picture.
 */
export function Layers({ picture, at, across = WIDTH, unfolding }: Props) {
  const navigate = useNavigate();
  const [near, setNear] = useState<number | null>(null);
  if (picture.boxes.length === 0)
    return (
      <p className="dim flex items-center gap-3 pb-3 text-[13px]">
        {t("It is too much to draw; narrow the question to see it as layers. The list has all of it.")}
        <FoldAgain unfolding={unfolding} />
      </p>
    );
  const { boxes, bands, height } = placed(picture.boxes, across);
  const met = FATES.filter((fate) => boxes.some((b) => b.fate === fate));
  const many = picture.lines.length > 40;
  const seen = (line: Schemas["LayerLine"]) => {
    if (near !== null) return line.above === near || line.below === near ? 1 : 0.08;
    return many ? 0.45 : 1;
  };
  const open = (box: Box) => {
    if (box.service !== null)
      return void navigate({
        to: "/services/$service",
        params: { service: String(box.service) },
        search: { at },
      });
    return void (box.asset === null
      ? navigate({ to: "/estate", search: { at, q: box.filter } })
      : navigate({ to: "/assets/$asset", params: { asset: String(box.asset) }, search: { at } }));
  };
  return (
    <div className="sheet mb-3 hidden overflow-x-auto sm:block">
      <div className="flex min-h-6 justify-between gap-4 px-3.5 pt-2">
        <ul className="dim flex gap-4 text-[12px]" aria-label={t("What the boxes mean")}>
          {met.length > 1 &&
            met.map((fate) => (
              <li key={fate} className="flex items-center gap-1.5">
                <svg width="16" height="11" aria-hidden="true">
                  <rect x="1" y="1" width="14" height="9" rx="2" {...shape(fate)} />
                </svg>
                {fate === "gone" ? t("taken away") : fate}
              </li>
            ))}
        </ul>
        <FoldAgain unfolding={unfolding} />
      </div>
      <svg
        viewBox={`0 0 ${across} ${height}`}
        className="w-full"
        style={{ minWidth: across * 0.7 }}
        role="group"
        aria-label={t("What stands on what: {{boxes}}", {
          boxes: plural(picture.boxes.length, "box", "boxes"),
        })}
      >
        {bands.map((band) => (
          <g key={band.layer}>
            <rect
              x="0"
              y={band.top}
              width={across}
              height={band.height}
              rx="6"
              fill="var(--color-base-200)"
            />
            <text x="10" y={band.top + 15} className="fill-base-content text-[11px] font-semibold">
              {capital(band.layer)}
            </text>
          </g>
        ))}
        {/* What is lost is drawn last, over what holds. */}
        {[...picture.lines]
          .sort((a, b) => Number(a.lost) - Number(b.lost))
          .map((line) => (
            <path
              key={`${line.above} ${line.below}`}
              d={curve(boxes[line.above], boxes[line.below])}
              fill="none"
              stroke={line.lost ? "var(--color-error)" : "var(--color-base-300)"}
              opacity={seen(line)}
              strokeWidth={line.lost ? 1.6 : 1.2}
            />
          ))}
        {boxes.map((box, n) => (
          <g
            key={`${box.row} ${box.name} ${box.service ?? box.asset ?? box.filter}`}
            onMouseEnter={() => setNear(n)}
            onMouseLeave={() => setNear(null)}
            onFocus={() => setNear(n)}
            onBlur={() => setNear(null)}
          >
            <g
              role="button"
              tabIndex={0}
              className="cursor-pointer focus-visible:outline-2"
              aria-label={`${box.name}, ${box.fate === "gone" ? t("taken away") : box.fate}`}
              onClick={() => open(box)}
              onKeyDown={(e) => (e.key === "Enter" || e.key === " ") && open(box)}
            >
              <title>{`${box.name}: ${count(box.devices)} ${box.devices === 1 ? t("device") : t("devices")}`}</title>
              <rect x={box.x} y={box.y} width={box.width} height={box.height} rx="5" {...shape(box.fate)} />
              <text
                x={box.x + (box.width - corner(box, unfolding)) / 2}
                y={box.y + box.height / 2 + 4}
                textAnchor="middle"
                fill={INK[box.fate].text}
                className="text-[11px]"
              >
                {short(box.name, box.width - corner(box, unfolding))}
              </text>
            </g>
            <Unfold box={box} unfolding={unfolding} onUnfold={() => setNear(null)} />
          </g>
        ))}
      </svg>
    </div>
  );
}

interface UnfoldProps {
  box: Placed;
  unfolding: Unfolding | undefined;
  onUnfold: () => void;
}

/** The corner of a box that unfolds it. */
function Unfold({ box, unfolding, onUnfold }: UnfoldProps) {
  if (!unfolding || box.folded === null) return null;
  const folded = box.folded;
  const unfold = () => {
    unfolding.unfold(folded);
    onUnfold(); // the box that was pointed at is no more
  };
  const [x, y] = [box.x + box.width - CORNER, box.y];
  return (
    <g
      role="button"
      tabIndex={0}
      className="cursor-pointer opacity-60 hover:opacity-100 focus-visible:outline-2"
      aria-label={t("Unfold {{box}}", { box: box.name })}
      onClick={unfold}
      onKeyDown={(e) => {
        if (e.key !== "Enter" && e.key !== " ") return;
        e.preventDefault();
        unfold();
      }}
    >
      <title>{t("Unfold {{box}}", { box: box.name })}</title>
      <rect x={x} y={y} width={CORNER} height={box.height} fill="transparent" />
      <path
        d={`M${x + 4} ${y + box.height / 2} h8 m-4 -4 v8`}
        stroke={INK[box.fate].text}
        strokeWidth="1.4"
        fill="none"
      />
    </g>
  );
}

function FoldAgain({ unfolding }: { unfolding: Unfolding | undefined }) {
  if (!unfolding || unfolding.unfolded.length === 0) return null;
  return (
    <button type="button" className="link-quiet text-[12px]" onClick={unfolding.fold}>
      {t("Fold again")}
    </button>
  );
}

const CORNER = 18;

function corner(box: Placed, unfolding: Unfolding | undefined) {
  return box.folded !== null && unfolding ? CORNER : 0;
}

function shape(fate: Box["fate"]) {
  const { fill, stroke, dashed } = INK[fate];
  return { fill, stroke, strokeWidth: 1.2, strokeDasharray: dashed ? "3 2" : undefined };
}

/** A name as there is room for it: cut after a whole word, so that it is still part of what the box is called. */
function short(name: string, width: number) {
  const most = Math.floor((width - 8) / 6.2);
  if (name.length <= most) return name;
  const cut = name.slice(0, most - 1);
  return `${cut.slice(0, Math.max(cut.lastIndexOf(" "), 0)) || cut}…`;
}

function curve(above: Placed | undefined, below: Placed | undefined) {
  if (!above || !below) return "";
  const [x, y] = [above.x + above.width / 2, above.y + above.height];
  const [u, v] = [below.x + below.width / 2, below.y];
  const bend = Math.max(18, Math.abs(v - y) / 2);
  return `M${x} ${y} C${x} ${y + bend} ${u} ${v - bend} ${u} ${v}`;
}
