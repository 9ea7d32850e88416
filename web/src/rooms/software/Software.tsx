import { useNavigate, useSearch } from "@tanstack/react-router";
import { AskLine } from "../../parts/ask/AskLine";
import { useDial } from "../../parts/dial";
import { Views } from "../../parts/Views";
import type { Search } from "../../search";
import { t } from "../../words";
import { Administrators, Protection } from "./AdministratorsAndProtection";
import { Baselines } from "./Baselines";
import { Changes } from "./Changes";
import { Names } from "./Names";
import { Products } from "./Products";
import { Rulings } from "./Rulings";

const VIEWS: [string | undefined, string, string][] = [
  [undefined, t("Products"), t("what is installed, its spellings made one")],
  [
    "changes",
    t("What changed"),
    t("installed, removed, updated; the same change on many devices in one line"),
  ],
  ["rulings", t("Rulings"), t("what the company says of software; the narrower counts")],
  ["baselines", t("Should be there"), t("what devices should have, and which lack it")],
  ["administrators", t("Administrators"), t("who may do anything, and on which computers")],
  ["protection", t("Protection"), t("on, current, off, none, two at once")],
  ["names", t("Names"), t("what listed names are taken for, and corrections")],
];

/** The software room: products over any selection, what changed, what is ruled, what should be there. */
export function Software() {
  const { q = "", tab } = useSearch({ strict: false }) as Search;
  const { at } = useDial();
  const navigate = useNavigate();
  const go = (change: Partial<Search>) =>
    void navigate({ to: "/software", search: ((before: Search) => ({ ...before, ...change })) as never });
  const view = VIEWS.find(([key]) => key === tab) ?? VIEWS[0];
  const asks = ["", "changes", "administrators", "protection"].includes(tab ?? "");
  return (
    <div className="mx-auto w-full max-w-[1400px] px-4 pb-10">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 pt-3.5 pb-2">
        <h1>{t("Software")}</h1>
        <span className="dim text-[13.5px]">{view?.[2]}</span>
      </div>
      <Views room="software" to="/software" views={VIEWS} />
      {asks && (
        <div className="pt-2.5">
          <AskLine value={q} error={null} submit={(filter) => go({ q: filter || undefined })} />
        </div>
      )}
      {tab === undefined && <Products filter={q} at={at} />}
      {tab === "changes" && <Changes filter={q} at={at} />}
      {tab === "rulings" && <Rulings at={at} />}
      {tab === "baselines" && <Baselines at={at} />}
      {tab === "administrators" && <Administrators filter={q} at={at} />}
      {tab === "protection" && <Protection filter={q} at={at} />}
      {tab === "names" && <Names />}
    </div>
  );
}
