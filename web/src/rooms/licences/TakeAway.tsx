import { toast } from "sonner";
import { client, ok } from "../../api/client";
import { today } from "../../parts/format";
import { sayRefused } from "../../parts/refusal";
import { t } from "../../words";

/** Take the position of the day shown away as a signed archive. */
export function TakeAway({ at }: { at: string | undefined }) {
  const take = async () => {
    try {
      const file = await ok(
        client.POST("/api/licences/bundle", {
          params: { query: { as_of: at } },
          parseAs: "blob",
        }) as Promise<{
          data?: Blob;
          error?: unknown;
          response: Response;
        }>,
      );
      const address = URL.createObjectURL(file);
      const link = document.createElement("a");
      link.href = address;
      link.download = `position-${at ?? today()}.zip`;
      link.click();
      URL.revokeObjectURL(address);
      toast.success(t("The position is taken away; `tarn verify-position` checks it."));
    } catch (refused) {
      sayRefused(refused, t("It could not be taken away."));
    }
  };
  return (
    <button type="button" className="btn btn-sm" onClick={() => void take()}>
      {t("For an auditor")}
    </button>
  );
}
