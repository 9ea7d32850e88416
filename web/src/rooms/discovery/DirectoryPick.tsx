import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { useDraft } from "../../parts/draft";
import { plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { t } from "../../words";
import { SweepForm } from "./SweepForm";

const PICKS = ["domain controllers", "member servers", "workstations"];

/** A sweep from a directory's computers: picked by sort, the stale ones left out, found by their names. */
export function DirectoryPick({ source }: { source: Schemas["SourceOut"] }) {
  const { attempt, rest } = useDraft({});
  const [found, setFound] = useState<(Schemas["PickOut"] & { pick: string }) | null>(null);
  const [open, setOpen] = useState(false);
  const mayPlan = useMay("plan");
  const credentials = useQuery(asks("/api/credentials"));
  if (!mayPlan) return null;
  const pick = async (which: string) => {
    await attempt(async () => {
      const answer = await ok(
        client.POST("/api/sources/{number}/pick", {
          params: { path: { number: source.id } },
          body: { pick: which },
        }),
      );
      setFound({ ...answer, pick: which });
    });
  };
  return (
    <section className="sheet px-4 py-3" aria-labelledby="pick-title">
      <h2 id="pick-title" className="dim mb-2 text-[12px] font-semibold">
        {t("A sweep of its computers")}
      </h2>
      <div className="flex flex-wrap gap-2">
        {PICKS.map((p) => (
          <button
            key={p}
            type="button"
            className={`btn btn-sm ${found?.pick === p ? "btn-primary" : ""}`}
            onClick={() => pick(p)}
          >
            {p}
          </button>
        ))}
      </div>
      {rest}
      {found && (
        <p className="mt-2 text-[13px]" role="status">
          {t("{{computers}} signed in within 90 days; the name service leads to {{addresses}}.", {
            computers: plural(found.names, "computer"),
            addresses: plural(found.addresses.length, "address", "addresses"),
          })}{" "}
          {found.unknown.length > 0 && (
            <span className="dim">
              {t("No address:")} <span className="mono">{found.unknown.slice(0, 5).join(", ")}</span>
              {found.unknown.length > 5
                ? t(" and {{unknown}} more", { unknown: found.unknown.length - 5 })
                : ""}
              .{" "}
            </span>
          )}
          {found.addresses.length > 0 && (
            <button type="button" className="link-quiet font-semibold" onClick={() => setOpen(true)}>
              {t("Make a sweep of them")}
            </button>
          )}
        </p>
      )}
      {open && found && (
        <SweepForm
          sweep={null}
          start={{
            name: t("{{pick}} of {{name}}", { pick: found.pick, name: source.name }),
            ranges: found.addresses.join("\n"),
            route: source.route,
            organisation: source.organisation,
          }}
          credentials={credentials.data ?? []}
          close={() => setOpen(false)}
        />
      )}
    </section>
  );
}
