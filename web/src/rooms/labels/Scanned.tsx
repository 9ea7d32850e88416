import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useEffect } from "react";
import { asks } from "../../api/asking";
import { Alone } from "../../parts/Alone";
import { useMe } from "../../parts/me";
import { Waiting } from "../../parts/Problem";
import { t } from "../../words";

/** Where the code of a label leads: to its device for those who are signed in, to whom to call for anybody else. */
export function Scanned() {
  const { code } = useParams({ strict: false }) as { code: string };
  const me = useMe();
  const navigate = useNavigate();
  const mine = useQuery({
    ...asks("/api/labels/{code}", { params: { path: { code } } }),
    enabled: Boolean(me.data),
    retry: false,
  });
  const found = useQuery({
    ...asks("/api/found/{code}", { params: { path: { code } } }),
    enabled: me.data === null,
    retry: false,
  });
  const there = mine.data && !mine.data.moved && !mine.data.lost_at ? mine.data.asset : undefined;
  useEffect(() => {
    if (there !== undefined)
      void navigate({ to: "/assets/$asset", params: { asset: String(there) }, search: {}, replace: true });
  }, [there, navigate]);
  const error = mine.error ?? found.error;
  return (
    <Alone refused={t("This code leads nowhere")} error={error}>
      {error ? null : mine.data && there === undefined ? (
        <div className="sheet px-5 py-4">
          <h1>
            {mine.data.lost_at ? t("This label counts as lost") : t("This device has another number now")}
          </h1>
          <p className="py-3">
            {t("The label was printed for {{before}}; the device is {{now}}.", {
              before: mine.data.printed_for,
              now: mine.data.name ? `${mine.data.number} (${mine.data.name})` : mine.data.number,
            })}
            {mine.data.lost_at ? ` ${t("It gets another label when labels are printed next.")}` : ""}
          </p>
          <Link
            to="/assets/$asset"
            params={{ asset: String(mine.data.asset) }}
            search={{}}
            className="btn btn-primary"
          >
            {t("Open it")}
          </Link>
        </div>
      ) : found.data ? (
        <div className="sheet px-5 py-4">
          <h1>{t("You have found something")}</h1>
          <p className="py-3">
            {t("This device belongs to {{company}}.", {
              company: found.data.company || t("whoever labelled it"),
            })}
            {found.data.words && ` ${found.data.words}`}
          </p>
          {found.data.phone && (
            <a href={`tel:${found.data.phone.replaceAll(" ", "")}`} className="btn btn-primary">
              {t("Call {{phone}}", { phone: found.data.phone })}
            </a>
          )}
          <p className="pt-4 text-[13px]">
            <Link to="/sign-in" search={{ to: `/l/${code}` }} className="link-quiet font-semibold">
              {t("I work here")}
            </Link>
          </p>
        </div>
      ) : (
        <Waiting what={t("Opening …")} />
      )}
    </Alone>
  );
}
