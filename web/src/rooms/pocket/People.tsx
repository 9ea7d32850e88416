import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import { quoted } from "../../parts/ask/written";
import { Unanswered } from "../../parts/Problem";
import type { Search } from "../../search";
import { t, word } from "../../words";
import { Devices } from "./Devices";
import { Frame } from "./Frame";

const MOST = 40;

/** People, places and departments, and what each has. */
export function People() {
  return <Frame title={t("People and places")}>{() => <Listed />}</Frame>;
}

function Listed() {
  const { q = "" } = useSearch({ strict: false }) as Search;
  const navigate = useNavigate();
  const asked = useQuery(asks("/api/branches"));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading …")} />;
  const words = q.trim().toLowerCase();
  const exact = asked.data.find((b) => b.name.toLowerCase() === words);
  const found = asked.data.filter((b) => words && b.name.toLowerCase().includes(words));
  return (
    <div className="grid gap-3 px-4 pt-4 pb-8">
      <input
        type="search"
        className="input h-11 w-full"
        aria-label={t("Find a person, place or department")}
        placeholder={t("person, place or department")}
        value={q}
        onChange={(e) =>
          void navigate({
            to: "/pocket/people",
            search: { q: e.target.value || undefined } as never,
            replace: true,
          })
        }
      />
      {exact ? (
        <Held field={exact.field} name={exact.name} />
      ) : (
        <ul className="sheet divide-y divide-base-300" aria-label={t("Found")}>
          {found.slice(0, MOST).map((b) => (
            <li key={`${b.field} ${b.name}`}>
              <Link to="/pocket/people" search={{ q: b.name } as never} className="flex gap-3 px-3.5 py-2.5">
                <b className="min-w-0 flex-1 font-semibold">{b.name}</b>
                <span className="dim text-[13px]">
                  {word(b.field)}, {t("{{count}} device", { count: b.within })}
                </span>
              </Link>
            </li>
          ))}
          {found.length === 0 && (
            <li className="dim px-3.5 py-3 text-[13.5px]">
              {words ? t("Nobody and nothing is called that.") : t("Type a name.")}
            </li>
          )}
        </ul>
      )}
    </div>
  );
}

function Held({ field, name }: { field: string; name: string }) {
  const filter = `${field} = ${quoted(name)}`;
  const query = { filter, fields: "name,number,kind,model,place", limit: MOST };
  const asked = useQuery(asks("/api/assets", { params: { query } }));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Looking …")} />;
  return (
    <section>
      <h2 className="pb-1.5 text-[15px] font-semibold">
        {name}: {t("{{count}} device", { count: asked.data.total })}
      </h2>
      <Devices label={name} rows={asked.data.rows} />
    </section>
  );
}
