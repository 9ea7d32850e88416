import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import {
  type DefaultValues,
  type FieldValues,
  get,
  type Path,
  type PathValue,
  useForm,
} from "react-hook-form";
import { toast } from "sonner";
import { under } from "../api/asking";
import { ApiProblem } from "../api/client";
import { Problem } from "./Problem";

interface After {
  /** The part of the API that hangs on what is saved, asked anew then; all of it where none is named. */
  anew?: string;
  close?: () => void;
  /** Called when something typed changes: what was worked out from it before says nothing any more. */
  changed?: () => void;
}

/**
 * What is typed into a form until it is saved, and what the server says of it.
 *
 * A refusal that names a field stands at that field until the field changes; `rest` tells any other, and one
 * that names a field the form does not show: nothing a server refuses goes unsaid.
 */
export function useDraft<T extends FieldValues>(begun: T, after: After = {}) {
  const form = useForm<T>({ defaultValues: begun as DefaultValues<T> });
  const queries = useQueryClient();
  const v = form.watch();
  const shown = useRef(new Set<string>());
  shown.current = new Set(); // what this drawing shows a fault of
  const faults = form.formState.errors;
  const refused = useRef<unknown>(null);
  const [busy, setBusy] = useState(false);

  const set = (change: Partial<T>) => {
    for (const [name, value] of Object.entries(change)) {
      form.setValue(name as Path<T>, value as PathValue<T, Path<T>>, { shouldDirty: true });
      form.clearErrors(name as Path<T>);
    }
    after.changed?.();
  };
  const wrong = (name: string) => {
    shown.current.add(name);
    return (get(faults, name) as { message?: string } | undefined)?.message;
  };
  const field = <K extends keyof T & string>(name: K) => ({
    value: v[name],
    set: (value: T[K]) => set({ [name]: value } as unknown as Partial<T>),
    wrong: wrong(name),
  });
  /** A field whose number is kept as one. */
  const number = <K extends keyof T & string>(name: K) => ({
    value: String(v[name]),
    set: (text: string) => set({ [name]: Number(text) } as unknown as Partial<T>),
    wrong: wrong(name),
    type: "number" as const,
  });
  const tick = <K extends keyof T & string>(name: K) => ({
    on: Boolean(v[name]),
    set: (on: boolean) => set({ [name]: on } as unknown as Partial<T>),
  });
  const refuse = (error: unknown) => {
    refused.current = error;
    const named = error instanceof ApiProblem ? error.problem.field : undefined;
    const name = named !== undefined && shown.current.has(named) ? named : "root.server";
    form.setError(name as Path<T>, {
      message: error instanceof ApiProblem ? error.problem.detail : String(error),
    });
  };
  /** Do something; what is refused is said in the form. While it runs, the form is `busy`. */
  const attempt = async (call: () => Promise<unknown>) => {
    form.clearErrors();
    setBusy(true);
    try {
      await call();
    } catch (error) {
      refuse(error);
    } finally {
      setBusy(false);
    }
  };
  /** A form's handler. */
  const submit = (call: () => Promise<unknown>) => (event?: React.FormEvent) => {
    form.clearErrors();
    return form.handleSubmit(async () => void (await attempt(call)))(event);
  };
  /** A form's handler that says what `call` returns and asks anew what hangs on it. It closes unless `call` returns null. */
  const save = (call: () => Promise<string | null>) =>
    submit(async () => {
      const said = await call();
      if (said !== null) toast.success(said);
      await queries.invalidateQueries(after.anew === undefined ? undefined : under(after.anew));
      if (said !== null) after.close?.();
    });
  const rest = faults.root ? <Problem error={refused.current} /> : null;
  return { v, set, field, number, tick, wrong, rest, attempt, refuse, submit, save, busy };
}
