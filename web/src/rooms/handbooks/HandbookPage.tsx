import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import type { JSONContent } from "@tiptap/react";
import { useCallback, useEffect, useRef, useState } from "react";
import { toast } from "sonner";
import { asks, under } from "../../api/asking";
import { ApiProblem, client, ok, type Schemas } from "../../api/client";
import { day, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Problem, Unanswered } from "../../parts/Problem";
import { sayRefused } from "../../parts/refusal";
import { t, word } from "../../words";
import { Editor } from "./Editor";
import { SettingsForm } from "./SettingsForm";

type Handbook = Schemas["HandbookOut"];
const PAUSE = 1200;

/** A handbook as it is written. */
export function HandbookPage() {
  const number = Number((useParams({ strict: false }) as { handbook: string }).handbook);
  const asked = useQuery({
    ...asks("/api/handbooks/{number}", { params: { path: { number } } }),
    // What is being written is not exchanged under one's hands.
    staleTime: Number.POSITIVE_INFINITY,
    refetchOnWindowFocus: false,
  });
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Opening the handbook …")} />;
  return <Written key={number} begun={asked.data} />;
}

type Keeping = "kept" | "changed" | "keeping" | "stale" | "refused";
const SAYS: Record<Keeping, string> = {
  kept: t("kept"),
  changed: t("not kept yet"),
  keeping: t("keeping …"),
  stale: t("changed elsewhere"),
  refused: t("could not be kept"),
};

function Written({ begun }: { begun: Handbook }) {
  const may = useMay("keep");
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [handbook, setHandbook] = useState(begun);
  const [keeping, setKeeping] = useState<Keeping>("kept");
  const [refused, setRefused] = useState<unknown>(null);
  const [setting, setSetting] = useState(false);
  const [busy, setBusy] = useState(false);
  const [edition, setEdition] = useState(0);
  const held = useRef(begun);
  const document = useRef<JSONContent>(begun.document as JSONContent);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const keeps = useRef<Promise<boolean>>(Promise.resolve(true));
  const others = useQuery(asks("/api/handbooks")).data?.handbooks.filter((h) => h.id !== begun.id) ?? [];

  const keepNow = useCallback(
    async (over: boolean) => {
      setKeeping("keeping");
      const { id, name, text, place, rule, to, formats, approved } = held.current;
      const sent = document.current;
      try {
        const version = over
          ? (await ok(client.GET("/api/handbooks/{number}", { params: { path: { number: id } } }))).version
          : held.current.version;
        const made = await ok(
          client.PUT("/api/handbooks/{number}", {
            params: { path: { number: id } },
            body: {
              name,
              text,
              place,
              rule,
              to,
              formats: formats as Schemas["HandbookIn"]["formats"],
              approved,
              document: sent as Schemas["HandbookIn"]["document"],
              version,
            },
          }),
        );
        held.current = made;
        setHandbook(made);
        setRefused(null);
        setKeeping(document.current === sent ? "kept" : "changed");
        queries.setQueryData(
          asks("/api/handbooks/{number}", { params: { path: { number: id } } }).queryKey,
          made,
        );
        return true;
      } catch (error) {
        const stale = error instanceof ApiProblem && error.problem.status === 409;
        setKeeping(stale ? "stale" : "refused");
        setRefused(stale ? null : error);
        return false;
      }
    },
    [queries],
  );
  /** Keep it as it stands, after whatever is being kept: two at once would each take the other's word for a stranger's. */
  const keep = useCallback(
    (over = false) => {
      clearTimeout(timer.current);
      const kept = keeps.current.then(() => keepNow(over));
      keeps.current = kept;
      return kept;
    },
    [keepNow],
  );
  const changed = useCallback(
    (next: JSONContent) => {
      document.current = next;
      setKeeping((now) => (now === "stale" ? now : "changed"));
      clearTimeout(timer.current);
      timer.current = setTimeout(() => void keep(), PAUSE);
    },
    [keep],
  );
  useEffect(() => () => clearTimeout(timer.current), []);
  useEffect(() => {
    const warn = (event: BeforeUnloadEvent) => keeping !== "kept" && event.preventDefault();
    window.addEventListener("beforeunload", warn);
    return () => window.removeEventListener("beforeunload", warn);
  }, [keeping]);

  const issue = async () => {
    setBusy(true);
    try {
      if (keeping !== "kept" && !(await keep())) return;
      const made = await ok(
        client.POST("/api/handbooks/{number}/issues", { params: { path: { number: handbook.id } } }),
      );
      await queries.invalidateQueries(under("handbooks"));
      toast.success(
        made.state === "asked"
          ? t("No. {{number}} waits for approval.", { number: made.number })
          : t("No. {{number}} is issued.", { number: made.number }),
      );
      await navigate({ to: "/handbooks/issues/$issue", params: { issue: String(made.id) }, search: {} });
    } catch (error) {
      sayRefused(error, t("It was not issued."));
    } finally {
      setBusy(false);
    }
  };
  const settings = async () => {
    if (keeping !== "kept") await keep();
    setSetting(true);
  };
  const theirs = async () => {
    const now = await ok(
      client.GET("/api/handbooks/{number}", { params: { path: { number: handbook.id } } }),
    );
    held.current = now;
    document.current = now.document as JSONContent;
    setHandbook(now);
    setEdition(edition + 1);
    setKeeping("kept");
  };
  const heads = ((document.current.content ?? []) as JSONContent[]).filter((n) => n.type === "heading");
  return (
    <div className="mx-auto w-full max-w-[1360px] px-4 pb-10">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 pt-3.5 pb-3">
        <h1>{handbook.name}</h1>
        <span className="dim text-[13px]" role="status">
          {t("draft {{version}} · {{SAYS}}", { version: handbook.version, SAYS: SAYS[keeping] })}
        </span>
        <span className="flex-1" />
        {may && (
          <>
            <button type="button" className="btn btn-sm" onClick={() => void settings()}>
              {t("Settings")}
            </button>
            <button
              type="button"
              className="btn btn-primary btn-sm"
              disabled={busy}
              onClick={() => void issue()}
            >
              {handbook.approved ? t("Ask for approval") : t("Issue it")}
            </button>
          </>
        )}
      </div>
      {keeping === "stale" && (
        <div
          role="alert"
          className="tag warn mb-3 !flex !items-center gap-3 !whitespace-normal !px-3 !py-2 !text-[13px]"
        >
          <span className="flex-1">
            {t("Somebody else has changed this handbook meanwhile. What you wrote is still here.")}
          </span>
          <button type="button" className="btn btn-xs" onClick={() => void keep(true)}>
            {t("Keep mine")}
          </button>
          <button type="button" className="btn btn-xs" onClick={() => void theirs()}>
            {t("Take theirs")}
          </button>
        </div>
      )}
      {refused ? <Problem error={refused} retry={() => void keep()} /> : null}
      <div className="grid gap-5 lg:grid-cols-[200px_minmax(0,1fr)_220px]">
        <aside className="text-[13px]">
          <h2 className="pb-1.5 text-[13px] font-semibold">{t("In this handbook")}</h2>
          <ol className="grid gap-1">
            {heads.map((h, n) => (
              <li
                key={n}
                style={{ paddingLeft: `${(Number(h.attrs?.level ?? 1) - 1) * 10}px` }}
                className="dim"
              >
                {h.content?.map((c) => c.text ?? "").join("")}
              </li>
            ))}
          </ol>
          <h2 className="pt-5 pb-1.5 text-[13px] font-semibold">{t("Issues")}</h2>
          <ul className="grid gap-1.5">
            {handbook.issues.map((i) => (
              <li key={i.id}>
                <Link
                  to="/handbooks/issues/$issue"
                  params={{ issue: String(i.id) }}
                  search={{}}
                  className="link-quiet font-semibold"
                >
                  {t("no. {{number}}, {{at}}", { number: i.number, at: day(i.at) })}
                </Link>{" "}
                {i.state !== "issued" && <span className="tag">{word(i.state)}</span>}
                {i.changed > 0 && <span className="dim block">{plural(i.changed, "difference")}</span>}
                {i.trouble && <span className="block text-error">{i.trouble}</span>}
              </li>
            ))}
            {handbook.issues.length === 0 && <li className="dim">{t("None yet.")}</li>}
          </ul>
          <h2 className="pt-5 pb-1.5 text-[13px] font-semibold">{t("Issued")}</h2>
          <p className="dim">
            {handbook.rule_words ? `${handbook.rule_words}` : t("by hand")}
            {handbook.to.length > 0 && t(", to {{to}}", { to: handbook.to.join(", ") })}
            {handbook.approved && t(", when a second person has approved")}
          </p>
        </aside>
        <Editor key={edition} handbook={handbook} others={others} changed={changed} />
      </div>
      {setting && (
        <SettingsForm
          handbook={{ ...handbook, document: document.current as Handbook["document"] }}
          kept={(now) => {
            held.current = now;
            setHandbook(now);
            setKeeping("kept");
          }}
          close={() => setSetting(false)}
        />
      )}
    </div>
  );
}
