import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useDeferredValue } from "react";
import { asksBy } from "../../api/asking";
import { ApiProblem, client, ok } from "../../api/client";
import { t } from "../../words";
import { Dialog } from "../Dialog";
import { useDraft } from "../draft";
import { FormFoot, TextField, Tick } from "../Form";
import { plural } from "../format";

interface Props {
  /** Which devices; it can be changed here. */
  filter: string;
  close: () => void;
}

/** Open a count: of which devices, all of them or a sample, and who counts where. */
export function CountDialog({ filter, close }: Props) {
  const navigate = useNavigate();
  const begun = { name: "", filter, sampled: false, confidence: 95, tolerance: 5, counters: "" };
  const { v, field, number, tick, save, rest, busy, wrong } = useDraft(begun, { close, anew: "counts" });
  const sample = v.sampled
    ? { confidence: Number(v.confidence) / 100, tolerance: Number(v.tolerance) / 100 }
    : null;
  const wanted = JSON.stringify({ filter: v.filter, sample });
  const asked = useDeferredValue(wanted);
  const planned = useQuery({
    ...asksBy("/api/counts/plan", { body: JSON.parse(asked) }),
    placeholderData: (before) => before,
    retry: false,
  });
  // What is shown is what is opened: until it is counted, nothing is.
  const counted = asked === wanted && !planned.isPlaceholderData && !planned.isFetching;
  const open = save(async () => {
    const counters = Object.fromEntries(
      v.counters
        .split("\n")
        .map((line) => line.split("=").map((part) => part.trim()))
        .filter(([place, who]) => place && who),
    );
    const made = await ok(
      client.POST("/api/counts", {
        body: { name: v.name, filter: v.filter, sample, counters, expected: planned.data?.total ?? null },
      }),
    );
    await navigate({ to: "/counts/$count", params: { count: String(made.id) }, search: {} });
    return t("{{number}} is open: {{devices}} to be met.", {
      number: made.number,
      devices: plural(made.expected, "device"),
    });
  });
  const places = planned.data?.places.filter((p) => p.place) ?? [];
  return (
    <Dialog title={t("Count devices")} close={close}>
      <form onSubmit={open}>
        <TextField
          label={t("Name")}
          {...field("name")}
          required
          autoFocus
          placeholder={t("Saltholm, autumn")}
        />
        <TextField
          label={t("Which devices")}
          {...field("filter")}
          wrong={wrong("filter") ?? refusal(planned.error)}
          mono
          rows={2}
          hint={t("a filter; nothing: the whole register")}
        />
        <Tick label={t("Look at a random sample of them only")} {...tick("sampled")} />
        {v.sampled && (
          <div className="grid gap-x-4 sm:grid-cols-2">
            <TextField
              label={t("Confidence, %")}
              {...number("confidence")}
              wrong={wrong("confidence")}
              least={50}
              most={99.9}
              step={0.1}
            />
            <TextField
              label={t("At most missing, %")}
              {...number("tolerance")}
              wrong={wrong("tolerance")}
              least={0.1}
              most={49}
              step={0.1}
              hint={t("where none of those drawn is missing")}
            />
          </div>
        )}
        <p className="dim pb-3 text-[13px]" role="status">
          {planned.error ? null : planned.data ? (
            <>
              <b className="text-base-content">{plural(planned.data.drawn, "device")}</b>
              {v.sampled && t(" drawn of {{total}}", { total: planned.data.total })}
              {places.length > 0 && t(" at {{places}}", { places: plural(places.length, "place") })}
              {t(". What is expected is kept as it is now.")}
            </>
          ) : (
            t("Counting …")
          )}
        </p>
        <TextField
          label={t("Who counts where")}
          {...field("counters")}
          rows={3}
          hint={t("a line each: place = who signs in; anybody may count what is nobody's")}
          placeholder={places
            .slice(0, 2)
            .map((p) => `${p.place} = wren`)
            .join("\n")}
        />
        {rest}
        <FormFoot close={close} busy={busy || !counted} save={t("Open the count")} />
      </form>
    </Dialog>
  );
}

/** The words of a refusal; none where nothing was refused. */
function refusal(error: unknown): string | undefined {
  if (!error) return undefined;
  return error instanceof ApiProblem ? error.problem.detail : String(error);
}
