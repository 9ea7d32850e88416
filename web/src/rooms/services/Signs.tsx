import { Link } from "@tanstack/react-router";
import type { Schemas } from "../../api/client";
import { t } from "../../words";

interface Props {
  signs: Schemas["SignOut"][];
  at: string | undefined;
  /** As many as are shown; the rest is counted. */
  most?: number;
}

/** What is wrong with a service, the worst first; each opens the devices it is about. */
export function Signs({ signs, at, most = 99 }: Props) {
  if (signs.length === 0) return <span className="tag good">{t("nothing known to be wrong")}</span>;
  return (
    <ul className="grid gap-1">
      {signs.slice(0, most).map((sign) => (
        <li key={`${sign.key} ${sign.text}`} className="flex items-baseline gap-1.5 text-[13px]">
          <span
            aria-hidden="true"
            className={`text-[11px] ${sign.grade === "bad" ? "text-error" : "text-warning-content"}`}
          >
            {sign.grade === "bad" ? "■" : "▲"}
          </span>
          <span className="sr-only">{sign.grade === "bad" ? t("Wrong:") : t("Weak:")}</span>
          {sign.filter ? (
            <Link to="/estate" search={{ at, q: sign.filter }} className="link-quiet whitespace-normal">
              {sign.text}
            </Link>
          ) : (
            <span className="whitespace-normal">{sign.text}</span>
          )}
        </li>
      ))}
      {signs.length > most && (
        <li className="dim text-[12.5px]">{t("and {{signs}} more", { signs: signs.length - most })}</li>
      )}
    </ul>
  );
}
