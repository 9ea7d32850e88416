import { useEffect, useId, useRef } from "react";
import { t } from "../words";

interface Props {
  title: string;
  close: () => void;
  children: React.ReactNode;
  wide?: boolean;
}

/** A dialog that traps focus and leaves on Escape; the browser's own element does both. */
export function Dialog({ title, close, children, wide }: Props) {
  const element = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    element.current?.showModal();
  }, []);
  return (
    <dialog ref={element} className="modal" onClose={close} aria-label={title}>
      <div className={`modal-box ${wide ? "max-w-2xl" : "max-w-lg"} rounded-[10px] p-5`}>
        <h2 className="mb-3 text-[17px] font-semibold">{title}</h2>
        {children}
      </div>
      <form method="dialog" className="modal-backdrop">
        <button type="submit">{t("Close")}</button>
      </form>
    </dialog>
  );
}

interface FieldProps {
  label: string;
  hint?: string;
  wrong?: string;
  children: (id: string) => React.ReactNode;
}

/** A labelled input with its hint, and its fault at its own place. */
export function Labelled({ label, hint, wrong, children }: FieldProps) {
  const id = useId();
  return (
    <div className="mb-3">
      <label htmlFor={id} className="mb-1 block text-[13px] font-semibold">
        {label}
      </label>
      {children(id)}
      {hint && !wrong && <p className="faint mt-1 text-[12px]">{hint}</p>}
      {wrong && (
        <p role="alert" className="mt-1 text-[12.5px] font-semibold text-error">
          {wrong}
        </p>
      )}
    </div>
  );
}
