import { useNavigate } from "@tanstack/react-router";
import type { Schemas } from "../../api/client";
import { t, word } from "../../words";

type Address = Schemas["AddressOut"];

/** How each outcome is drawn: the glyph tells it as well as the colour. */
export const OUTCOMES: [string, string][] = [
  ["waiting", "waiting"],
  ["no answer", t("no answer")],
  ["answered", "answered"],
  ["recognised", "recognised"],
  ["part read", t("part read")],
  ["fully read", t("fully read")],
  ["left out", t("left out")],
];

export function Glyph({ outcome }: { outcome: string }) {
  switch (outcome) {
    case "fully read":
      return (
        <g>
          <rect width="20" height="20" rx="4" fill="var(--s1)" />
          <circle cx="10" cy="10" r="3" fill="var(--dark-on)" />
        </g>
      );
    case "part read":
      return (
        <g>
          <rect width="20" height="20" rx="4" fill="var(--color-accent)" />
          <path d="M3 17 17 3" stroke="#fff" strokeWidth="2.6" />
        </g>
      );
    case "recognised":
      return (
        <g>
          <rect width="20" height="20" rx="4" fill="var(--s2)" />
          <path d="M6 10h8" stroke="var(--dark-on)" strokeWidth="2" />
        </g>
      );
    case "answered":
      return (
        <g>
          <rect width="20" height="20" rx="4" fill="var(--s3)" />
          <path d="M10 6v8" stroke="var(--pale-on)" strokeWidth="1.6" />
        </g>
      );
    case "left out":
      return <path d="M5 10h10" stroke="var(--ink-3)" strokeWidth="2" />;
    case "no answer":
      return <rect width="20" height="20" rx="4" fill="var(--stone-2)" />;
    default:
      return (
        <rect
          x="1"
          y="1"
          width="18"
          height="18"
          rx="4"
          fill="none"
          stroke="var(--color-base-300)"
          strokeWidth="1.5"
        />
      );
  }
}

interface Props {
  range: string;
  name: string;
  addresses: Address[];
}

const ACROSS = 32;

/** A network as a field of addresses that fills while a sweep runs. */
export function TideGrid({ range, name, addresses }: Props) {
  const navigate = useNavigate();
  const found = addresses.filter((a) => !["waiting", "no answer", "left out"].includes(a.outcome)).length;
  const rows = Math.ceil(addresses.length / ACROSS);
  return (
    <section className="sheet px-3 pt-2.5 pb-3" aria-label={`${range} ${name}`}>
      <h2 className="mb-2 flex items-baseline gap-2.5 text-[13.5px]">
        <span className="mono font-semibold">{range}</span>
        <span className="dim">{name}</span>
        <span className="dim ml-auto tabular-nums">{t("{{found}} found", { found })}</span>
      </h2>
      <svg
        viewBox={`0 0 ${ACROSS * 22 - 2} ${rows * 22 - 2}`}
        className="block w-full"
        role="img"
        aria-label={t(
          "{{found}} of {{addresses}} addresses answered; the table below says the same in words",
          { found, addresses: addresses.length },
        )}
      >
        {addresses.map((a, i) => {
          const asset = a.asset_id;
          return (
            <g
              key={a.address}
              transform={`translate(${(i % ACROSS) * 22} ${Math.floor(i / ACROSS) * 22})`}
              className={asset ? "cursor-pointer" : ""}
              onClick={() =>
                asset
                  ? void navigate({ to: "/assets/$asset", params: { asset: String(asset) }, search: {} })
                  : undefined
              }
              onKeyDown={() => undefined}
            >
              <title>
                {`${a.address}${a.taken_for ? `, ${a.taken_for}` : ""}: ${word(a.outcome)}${a.outcome === "waiting" && a.stage ? t(", being looked at") : ""}`}
              </title>
              <rect width="20" height="20" fill="transparent" />
              <Glyph outcome={a.outcome} />
              {a.outcome === "waiting" && a.stage > 0 && (
                <circle cx="10" cy="10" r="3.5" fill="var(--s3)" className="animate-pulse" />
              )}
            </g>
          );
        })}
      </svg>
    </section>
  );
}

export function TideLegend() {
  return (
    <p className="dim flex flex-wrap gap-x-4 gap-y-1 text-[12px]">
      {OUTCOMES.map(([outcome, says]) => (
        <span key={outcome} className="inline-flex items-center gap-1.5">
          <svg viewBox="0 0 20 20" width="13" height="13" aria-hidden="true">
            <Glyph outcome={outcome} />
          </svg>
          {says}
        </span>
      ))}
    </p>
  );
}
