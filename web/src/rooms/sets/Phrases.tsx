import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField } from "../../parts/Form";
import { plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Unanswered } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";

type Phrase = Schemas["PhraseOut"];

/** Named lists and patterns: what each names now, and what speaks of it. */
export function Phrases() {
  const [making, setMaking] = useState<Phrase | "new" | null>(null);
  const may = useMay("keep");
  const asked = useQuery(asks("/api/phrases"));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading the phrases …")} />;
  return (
    <Sheet
      id="phrases"
      className=""
      title={t("Phrases")}
      actions={
        may && (
          <button type="button" className="btn btn-sm" onClick={() => setMaking("new")}>
            {t("New phrase")}
          </button>
        )
      }
    >
      <Table
        list="phrases"
        label={t("Phrases")}
        rows={asked.data}
        rowKey={(p) => p.name}
        columns={[
          {
            key: "phrase",
            label: t("Phrase"),
            of: (p) => p.name,
            cell: (p) => (
              <>
                <b className="mono">@{p.name}</b>
                <span className="faint block">{p.meaning}</span>
              </>
            ),
          },
          {
            key: "words_and_patterns",
            label: t("Words and patterns"),
            of: (p) => p.values.join(", "),
            mono: true,
          },
          {
            key: "names_now",
            label: t("Names now"),
            of: (p) => p.products.length,
            cell: (p) => (
              <>
                {p.products.length ? p.products.slice(0, 4).join(", ") : t("no product")}
                {p.products.length > 4 && t(" and {{products}} more", { products: p.products.length - 4 })}
              </>
            ),
            className: "dim",
          },
          {
            key: "used_by",
            label: t("Used by"),
            of: (p) => p.uses.length,
            cell: (p) => (
              <>
                {p.uses.length === 0 && <span className="faint">{t("nothing yet")}</span>}
                {p.uses.slice(0, 3).map((u) => (
                  <a key={u.what + u.name} className="link-quiet block" href={u.where}>
                    {u.what} {u.name}
                  </a>
                ))}
                {p.uses.length > 3 && (
                  <span className="faint">
                    {t("and {{others}}", { others: plural(p.uses.length - 3, "other") })}
                  </span>
                )}
              </>
            ),
          },
          {
            key: "do",
            label: "",
            cell: (p) =>
              may && (
                <button type="button" className="link-quiet font-semibold" onClick={() => setMaking(p)}>
                  {t("Change")}
                </button>
              ),
            className: "text-right",
          },
        ]}
      />
      {asked.data.length === 0 && (
        <p className="dim px-3.5 pb-3 text-[13px]">
          {t("None yet. A phrase such as @office_suites saves writing a list in every filter.")}
        </p>
      )}
      {making && <PhraseForm held={making === "new" ? null : making} close={() => setMaking(null)} />}
    </Sheet>
  );
}

function PhraseForm({ held, close }: { held: Phrase | null; close: () => void }) {
  const queries = useQueryClient();
  const { v, field, attempt, submit, rest } = useDraft({
    values: (held?.values ?? []).join("\n"),
    name: held?.name ?? "",
    meaning: held?.meaning ?? "",
  });
  const { name, meaning, values } = v;
  const done = async (said: string) => {
    toast.success(said);
    await queries.invalidateQueries();
    close();
  };
  const save = submit(async () => {
    const body = {
      name,
      meaning,
      values: values
        .split("\n")
        .map((v) => v.trim())
        .filter(Boolean),
    };

    if (held) await ok(client.PUT("/api/phrases/{name}", { params: { path: { name: held.name } }, body }));
    else await ok(client.POST("/api/phrases", { body }));
    await done(
      t("@{{name}} is kept; every filter that speaks of it follows.", { name: body.name.replace(/^@/, "") }),
    );
  });
  const drop = async () => {
    if (!held) return;
    await attempt(async () => {
      await ok(client.DELETE("/api/phrases/{name}", { params: { path: { name: held.name } } }));
      await done(t("@{{name}} is dropped.", { name: held.name }));
    });
  };
  return (
    <Dialog title={held ? t("Change @{{name}}", { name: held.name }) : t("New phrase")} close={close}>
      <form onSubmit={save}>
        <TextField
          label={t("Name")}
          mono
          {...field("name")}
          hint={t("Used in filters with @ in front.")}
          required
        />
        <TextField label={t("What it means")} {...field("meaning")} />
        <TextField
          label={t("Words and patterns")}
          mono
          rows={6}
          {...field("values")}
          hint={t("One a line; a pattern stands between slashes: /^galleykeeper/.")}
        />
        {rest}
        <FormFoot close={close} drop={held ? () => void drop() : undefined} />
      </form>
    </Dialog>
  );
}
