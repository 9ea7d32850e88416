import { useDial } from "../../parts/dial";
import { Menu } from "../../parts/Menu";
import { t } from "../../words";

const VEX: [string, string][] = [
  ["openvex", t("OpenVEX")],
  ["csaf", "CSAF 2.0"],
  ["cyclonedx", t("CycloneDX 1.6")],
];

/** What is asked for, as files of open formats for others: how it stands (VEX), and what it is made of. */
export function HandOn({ filter }: { filter: string }) {
  const { at } = useDial();
  const asked = new URLSearchParams();
  if (filter) asked.set("filter", filter);
  if (at) asked.set("as_of", at);
  const query = asked.size ? `?${asked}` : "";
  return (
    <Menu label={t("Hand on")}>
      <p className="dim px-2 pb-1 text-[12.5px]">{t("How it stands to what is known (VEX)")}</p>
      {VEX.map(([format, words]) => (
        <a
          key={format}
          href={`/api/exposure/vex/${format}${query}`}
          className="link-quiet block px-2 py-0.5 text-[13px]"
          download
        >
          {words}
        </a>
      ))}
      <p className="dim px-2 pt-2 pb-1 text-[12.5px]">{t("What it is made of")}</p>
      <a href={`/api/exposure/bom${query}`} className="link-quiet block px-2 py-0.5 text-[13px]" download>
        {t("Bill of materials (CycloneDX 1.6)")}
      </a>
    </Menu>
  );
}
