import { toast } from "sonner";
import { client, ok } from "../api/client";
import { t } from "../words";
import { sayRefused } from "./refusal";

interface Done {
  entry: number;
  after: () => void;
}

/** What can be undone by the key: the last thing done here that was not undone yet. */
let last: Done | null = null;

async function undo({ entry, after }: Done): Promise<void> {
  if (last?.entry === entry) last = null;
  try {
    await ok(client.POST("/api/audit/{entry_id}/undo", { params: { path: { entry_id: entry } } }));
    toast.success(t("Undone."));
    after();
  } catch (error) {
    sayRefused(error, t("It could not be undone."));
  }
}

/** Undo the last thing done on this page; says so where there is none. */
export function undoLast(): void {
  if (last) void undo(last);
  else toast.info(t("Nothing was done here that could be undone."));
}

/** Say what was done, with the way back. */
export function undoToast(message: string, entry: number, after: () => void): void {
  const done = { entry, after };
  last = done;
  toast.success(message, { action: { label: t("Undo"), onClick: () => void undo(done) } });
}
