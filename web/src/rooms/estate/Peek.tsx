import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { X } from "lucide-react";
import { asks } from "../../api/asking";
import { asRow } from "../../api/types";
import { agoWords, memory } from "../../parts/format";
import { Plate } from "../../parts/Plate";
import { Unanswered } from "../../parts/Problem";
import { Ribbon } from "../../parts/Ribbon";
import { Fact } from "../../parts/Why";
import { t } from "../../words";

/** A look at one asset beside the list. */
export function Peek({ asset, at, close }: { asset: number; at: string | undefined; close: () => void }) {
  const peek = useQuery({
    ...asks("/api/assets/{asset}/peek", { params: { path: { asset }, query: { as_of: at } } }),
    placeholderData: (before) => before,
  });
  if (peek.error || !peek.data) return <Unanswered asked={peek} what={t("Reading …")} />;
  const { claims, ribbon, until } = peek.data;
  const plate = asRow(peek.data.plate);
  const now = new Date(until);
  const system = [plate["os.name"], plate["os.version"]].filter(Boolean).join(" ");
  return (
    <div className="grid gap-3 p-4">
      <div className="flex items-center">
        <Link
          to="/assets/$asset"
          params={{ asset: String(asset) }}
          search={{ at } as never}
          className="link-quiet text-[13px] font-semibold"
        >
          {t("Open the dossier")}
        </Link>
        <button
          type="button"
          className="btn btn-ghost btn-xs ml-auto"
          aria-label={t("Close the peek")}
          onClick={close}
        >
          <X size={15} />
        </button>
      </div>
      <Plate row={plate} aside />
      <section>
        <h3 className="dim mb-1.5 text-[12px] font-semibold">{t("What we hold to be true")}</h3>
        <dl className="facts !grid-cols-[84px_1fr_auto]">
          <Fact label={t("System")} field="os_name" value={system || null} claims={claims} />
          <Fact
            label={t("Memory")}
            field="memory"
            type="memory"
            value={plate.memory ? memory(Number(plate.memory)) : null}
            claims={claims}
          />
          <Fact label={t("Address")} field="address" value={plate.address} claims={claims} mono />
          <Fact label={t("Place")} field="place" value={plate.place} claims={claims} />
          <Fact label={t("Holder")} field="person" value={plate.person} claims={claims} />
          <Fact label={t("Department")} field="department" value={plate.department} claims={claims} />
          {plate.organisation && (
            <Fact label={t("Organisation")} field="organisation" value={plate.organisation} claims={claims} />
          )}
          {plate.note && <Fact label={t("Note")} field="note" value={plate.note} claims={claims} />}
        </dl>
        <p className="faint mt-2 text-[12.5px]">
          {plate["software.count"]}{" "}
          {t("packages · last seen {{last_seen}}", {
            last_seen: agoWords(String(plate.last_seen), now.getTime()),
          })}
        </p>
      </section>
      <section>
        <h3 className="dim text-[12px] font-semibold">{t("Ninety days")}</h3>
        <Ribbon
          days={ribbon}
          from={new Date(now.getTime() - 90 * 86_400_000)}
          to={now}
          at={now}
          height={62}
        />
      </section>
    </div>
  );
}
