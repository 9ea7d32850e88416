import { Link } from "@tanstack/react-router";
import type { Schemas } from "../../api/client";
import { t } from "../../words";

/** The way to the first sweep, on an installation that is still empty. */
export function FirstSteps({ steps }: { steps: Schemas["FirstStepOut"][] }) {
  const next = steps.find((s) => !s.done);
  return (
    <section className="sheet max-w-2xl p-5" aria-labelledby="first">
      <h2 id="first" className="text-[17px] font-semibold">
        {t("Nothing is in the register yet")}
      </h2>
      <p className="dim pt-1 pb-3">
        {t("Four steps, and Tarn knows what there is. This list goes when they are done.")}
      </p>
      <ol className="grid gap-2">
        {steps.map((step, n) => (
          <li key={step.key} className="flex items-baseline gap-3">
            <span
              className={`grid h-6 w-6 flex-none place-items-center rounded-full text-[12.5px] font-bold ${
                step.done ? "bg-primary text-primary-content" : "bg-base-300"
              }`}
            >
              {step.done ? "✓" : n + 1}
            </span>
            <span className={`min-w-0 flex-1 ${step.done ? "dim" : "font-semibold"}`}>
              {step.text}
              {step.done && <span className="sr-only"> {t("(done)")}</span>}
            </span>
            {step === next && (
              <Link to={step.to} className="btn btn-primary btn-sm">
                {t("Go there")}
              </Link>
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}
