import { useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useState } from "react";
import { toast } from "sonner";
import { under } from "../api/asking";
import { t } from "../words";
import { sayRefused } from "./refusal";

interface SheetProps {
  id: string;
  title: string;
  hint?: string;
  /** What can be done with the whole, at the right. */
  actions?: ReactNode;
  className?: string;
  children: ReactNode;
}

/** A titled sheet with a table in it. */
export function Sheet({ id, title, hint, actions, className, children }: SheetProps) {
  return (
    <section className={`sheet overflow-x-auto ${className ?? "mt-3"}`} aria-labelledby={`${id}-title`}>
      <div className="flex items-center gap-2 px-3.5 py-2">
        <h2 id={`${id}-title`} className="text-[15px] font-semibold">
          {title}
        </h2>
        {hint && <span className="dim ml-1 text-[13px]">{hint}</span>}
        <span className="flex-1" />
        {actions}
      </div>
      {children}
    </section>
  );
}

/** The heads of a table; "" is the column of what can be done with a row. */
export function Heads({ names, numbers = [] }: { names: string[]; numbers?: string[] }) {
  return (
    <thead>
      <tr>
        {names.map((n) => (
          <th key={n} className={numbers.includes(n) ? "num" : undefined}>
            {n || <span className="sr-only">{t("More")}</span>}
          </th>
        ))}
      </tr>
    </thead>
  );
}

/**
 * Something done at once: said when it is done, said in words when it is not. Whether it was is returned.
 * Asked anew is what lies under `anew`, all of the API where it is not named.
 */
export function useDone(anew?: string) {
  const queries = useQueryClient();
  return async (call: () => Promise<unknown>, said = "") => {
    try {
      await call();
      if (said) toast.success(said);
      await queries.invalidateQueries(anew === undefined ? undefined : under(anew));
      return true;
    } catch (error) {
      sayRefused(error, t("It could not be done."));
      return false;
    }
  };
}

/** The way to withdraw something for good, after a question. */
export function Withdraw(props: { what: string; name: string; then: string; call: () => Promise<unknown> }) {
  const done = useDone(props.what);
  const ask = () => {
    if (window.confirm(t("Withdraw “{{name}}”? {{it}} This is final.", { name: props.name, it: props.then })))
      void done(props.call, t("“{{name}}” is withdrawn.", { name: props.name }));
  };
  return (
    <button type="button" className="link-quiet font-semibold" onClick={ask}>
      {t("Withdraw")}
    </button>
  );
}

/** Text to be copied: a command, an address, a secret. */
export function Copied({ label, text }: { label?: string; text: string }) {
  const [copied, setCopied] = useState(false);
  const copy = async () => {
    await navigator.clipboard?.writeText(text);
    setCopied(true);
  };
  return (
    <div className="py-0.5 text-[13px]">
      <p className="flex">
        {label && <span className="dim">{label}</span>}
        <button
          type="button"
          className="link-quiet ml-auto font-semibold"
          onClick={copy}
          aria-label={t("Copy {{label}}", { label: label ?? t("it") })}
        >
          {copied ? t("Copied") : t("Copy")}
        </button>
      </p>
      <p className="mono rounded bg-base-200 px-2 py-1 break-all whitespace-pre-wrap select-all">{text}</p>
    </div>
  );
}
