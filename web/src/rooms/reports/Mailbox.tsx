import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import { moment } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { t } from "../../words";

/** The mail delivered to this installation’s own mailbox. */
export function Mailbox() {
  const [open, setOpen] = useState<string | null>(null);
  const asked = useQuery({
    ...asks("/api/mailbox"),
    refetchInterval: 10_000,
  });
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Opening the mailbox …")} />;
  if (asked.data.length === 0)
    return (
      <Empty title={t("No mail yet.")}>
        {t(
          "In the demo, letters of watches are delivered here; a real installation sends them by its own mail server.",
        )}
      </Empty>
    );
  const shown = asked.data.find((m) => m.id === open) ?? asked.data[0];
  return (
    <div className="grid items-start gap-3 lg:grid-cols-[380px_1fr]">
      <ul className="sheet overflow-hidden">
        {asked.data.map((m) => (
          <li key={m.id}>
            <button
              type="button"
              aria-pressed={m.id === shown?.id}
              onClick={() => setOpen(m.id)}
              className={`block w-full border-b border-[var(--line-2)] px-3.5 py-2 text-left text-[13px] ${m.id === shown?.id ? "bg-[var(--wash)]" : ""}`}
            >
              <b className="block truncate font-semibold">{m.subject}</b>
              <span className="dim">
                {m.to} · {moment(new Date(m.at).toISOString())}
              </span>
            </button>
          </li>
        ))}
      </ul>
      {shown && (
        <article className="sheet px-4 py-3">
          <h2 className="text-[15px] font-semibold">{shown.subject}</h2>
          <p className="dim pb-2 text-[13px]">
            {t("from {{sender}} to {{to}}", { sender: shown.sender, to: shown.to })}
            {shown.attached.length > 0 && t(", with {{attached}}", { attached: shown.attached.join(", ") })}
          </p>
          <pre className="overflow-auto text-[13px] whitespace-pre-wrap" style={{ fontFamily: "inherit" }}>
            {shown.text}
          </pre>
        </article>
      )}
    </div>
  );
}
