import { useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { useFaults } from "./Form";

/** Saving in a dialog: what was done is said, what hangs on `key` is asked anew, faults stand at their fields. */
export function useSaving(key: string, close: () => void) {
  const queries = useQueryClient();
  const { setError, wrong, rest } = useFaults();
  const save = (call: () => Promise<string>) => async (event?: React.FormEvent) => {
    event?.preventDefault();
    setError(null);
    try {
      toast.success(await call());
      await queries.invalidateQueries({ queryKey: [key] });
      close();
    } catch (refused) {
      setError(refused);
    }
  };
  return { save, wrong, rest };
}
