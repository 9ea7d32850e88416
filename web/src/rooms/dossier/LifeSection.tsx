import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import { postForm, type Schemas } from "../../api/client";
import { useDial } from "../../parts/dial";
import { amount, day, moment } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Section } from "../../parts/Section";
import { useDone } from "../../parts/Sheet";
import { t } from "../../words";

type Taken = Schemas["StepWithPapers"];

/** Where an asset stands in its life: in whose hands it is, and the steps it took, each with its papers. */
export function LifeSection({ asset }: { asset: number }) {
  const { at } = useDial();
  const asked = useQuery(
    asks("/api/lifecycle/assets/{asset}/steps", {
      params: { path: { asset }, query: { as_of: at } },
    }),
  );
  const told = asked.data;
  if (!told || (!told.taken.length && !told.hand_over)) return null;
  const h = told.hand_over;
  return (
    <Section id="life" title={t("Life")} flush>
      {h && (
        <p className="px-3.5 pb-2 text-[13px]">
          {t("In the hands of")} <b className="font-semibold">{h.receiver}</b>{" "}
          {t("since {{given_at}}", { given_at: day(h.given_at) })}
          {h.due && (
            <>
              {t(", due back {{due}}", { due: day(h.due) })}{" "}
              {h.overdue > 0 && (
                <span className="tag bad">{t("{{overdue}} days overdue", { overdue: h.overdue })}</span>
              )}
            </>
          )}
          .{" "}
          {h.acknowledged_at ? (
            <span className="dim">
              {t("Acknowledged by {{acknowledged_by}}, {{acknowledged_at}}.", {
                acknowledged_by: h.acknowledged_by,
                acknowledged_at: moment(h.acknowledged_at),
              })}
            </span>
          ) : (
            <span className="tag warn">{t("not acknowledged yet")}</span>
          )}
          {h.left && <span className="tag warn ml-1">{t("has left")}</span>}
        </p>
      )}
      <ol className="text-[13px]">
        {told.taken.map((taken) => (
          <TakenStep key={taken.anchor} taken={taken} />
        ))}
      </ol>
    </Section>
  );
}

function TakenStep({ taken }: { taken: Taken }) {
  const { at } = useDial();
  const may = useMay("keep") && !at;
  const done = useDone("lifecycle");
  const [adding, setAdding] = useState(false);
  const keep = async (file: File | undefined) => {
    if (!file) return;
    const body = new FormData();
    body.set("file", file);
    const kept = await done(
      () => postForm(`/api/lifecycle/steps-taken/${taken.anchor}/papers`, body),
      t("{{name}} is kept.", { name: file.name }),
    );
    if (kept) setAdding(false);
  };
  const more = [
    taken.receiver && t("to {{receiver}}", { receiver: taken.receiver }),
    taken.due && t("until {{due}}", { due: day(taken.due) }),
    taken.method && t("by {{method}}", { method: taken.method }),
    taken.erasure && `erasure: ${taken.erasure}`,
    taken.proceeds &&
      t("for {{proceeds}} {{currency}}", { proceeds: amount(taken.proceeds), currency: taken.currency }),
    taken.costs &&
      t("at a cost of {{costs}} {{currency}}", { costs: amount(taken.costs), currency: taken.currency }),
    taken.returned_at &&
      t("returned {{returned_at}}{{which}}", {
        returned_at: moment(taken.returned_at),
        which: taken.condition ? `, ${taken.condition}` : "",
      }),
  ].filter(Boolean);
  return (
    <li className="border-t border-[var(--line-2)] px-3.5 py-1.5">
      <span className="font-semibold">{taken.step}</span>{" "}
      <span className="dim">
        {taken.begins ? `${taken.begins} → ` : ""}
        {taken.to}
      </span>
      <span className="faint float-right text-[12px]">
        {taken.who}, {moment(taken.at)}
      </span>
      {more.length > 0 && <span className="block">{more.join("; ")}</span>}
      {taken.why && <span className="dim block">{taken.why}</span>}
      {taken.papers.map((p) => (
        <span key={p.id} className="block">
          {p.file_name ? (
            <a className="link-quiet font-semibold" href={`/api/papers/${p.id}/file`} download>
              {p.file_name}
            </a>
          ) : (
            p.text
          )}
        </span>
      ))}
      {may &&
        (adding ? (
          <input
            type="file"
            aria-label={t("File for {{step}}", { step: taken.step })}
            className="file-input file-input-xs mt-1 w-full"
            onChange={(e) => void keep(e.target.files?.[0])}
          />
        ) : (
          <button
            type="button"
            className="link-quiet text-[12px] font-semibold"
            onClick={() => setAdding(true)}
          >
            {t("Add a paper")}
          </button>
        ))}
    </li>
  );
}
