import type { ReactNode } from "react";
import { t } from "../words";
import { Problem } from "./Problem";

interface Props {
  /** What stands over a refusal. */
  refused: string;
  error: unknown;
  children: ReactNode;
}

/** A page that stands without the bar, for whoever came by a link or a code and may not be signed in. */
export function Alone({ refused, error, children }: Props) {
  return (
    <main className="mx-auto grid min-h-dvh w-full max-w-md content-center px-5 py-8">
      <p className="pb-3 text-[17px] font-bold tracking-wide text-primary">{t("tarn")}</p>
      {error ? (
        <>
          <h1 className="pb-3">{refused}</h1>
          <Problem error={error} />
        </>
      ) : null}
      {children}
    </main>
  );
}
