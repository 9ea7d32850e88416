import { toast } from "sonner";
import { ApiProblem } from "../api/client";

/** Say what the server refused, in its words; `otherwise` where no answer came that has any. */
export function sayRefused(error: unknown, otherwise: string) {
  toast.error(error instanceof ApiProblem ? error.problem.detail : otherwise);
}
