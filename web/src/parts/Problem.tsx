import type { UseQueryResult } from "@tanstack/react-query";
import { ApiProblem } from "../api/client";
import { t } from "../words";

/** What went wrong, in the server's words, and how to go on. */
export function Problem({ error, retry }: { error: unknown; retry?: () => void }) {
  const said = error instanceof ApiProblem ? error.problem.detail : String(error);
  return (
    <div role="alert" className="tag bad !block !whitespace-normal !px-3 !py-2 !text-[13px] !leading-snug">
      {said}
      {retry && (
        <button type="button" className="link-quiet ml-3 font-semibold" onClick={retry}>
          {t("Try again")}
        </button>
      )}
    </div>
  );
}

export function Empty({ title, children }: { title: string; children?: React.ReactNode }) {
  return (
    <div className="mx-auto max-w-md px-6 py-14 text-center">
      <p className="text-[15px] font-semibold">{title}</p>
      <div className="dim mt-1">{children}</div>
    </div>
  );
}

export function Waiting({ what }: { what: string }) {
  return (
    <p className="dim flex items-center gap-2 px-4 py-6" role="status">
      <span className="loading loading-dots loading-sm" /> {what}
    </p>
  );
}

/** What stands in a page's place until its question is answered: that it is read, or why it could not be. */
export function Unanswered({ asked, what }: { asked: UseQueryResult; what: string }) {
  if (!asked.error) return <Waiting what={what} />;
  return (
    <div className="p-4">
      <Problem error={asked.error} retry={() => void asked.refetch()} />
    </div>
  );
}

/** What stands in a page's place that could not be drawn: a fault of Tarn's own, told so that it can be passed on. */
export function Failed({ error }: { error: unknown }) {
  return (
    <div role="alert" className="mx-auto max-w-xl px-6 py-14">
      <p className="text-[15px] font-semibold">{t("This page could not be drawn.")}</p>
      <p className="dim mt-1 text-[13px]">
        {t(
          "That is a fault of Tarn, not of what you asked; nothing was changed. Whoever keeps Tarn can use this:",
        )}
      </p>
      <pre className="mono mt-2 text-[12px] break-words whitespace-pre-wrap">
        {error instanceof Error ? (error.stack ?? error.message) : String(error)}
      </pre>
    </div>
  );
}
