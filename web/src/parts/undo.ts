import { toast } from "sonner";
import { ApiProblem, client, ok } from "../api/client";

/** Say what was done, with the way back. */
export function undoToast(message: string, entry: number, after: () => void): void {
  toast.success(message, {
    action: {
      label: "Undo",
      onClick: () => {
        ok(client.POST("/api/audit/{entry_id}/undo", { params: { path: { entry_id: entry } } }))
          .then(() => {
            toast.success("Undone.");
            after();
          })
          .catch((error: unknown) =>
            toast.error(error instanceof ApiProblem ? error.problem.detail : "It could not be undone."),
          );
      },
    },
  });
}
