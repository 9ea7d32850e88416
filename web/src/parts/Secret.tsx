import { t } from "../words";
import { Dialog } from "./Dialog";

/** The secret another system proves Tarn's calls by: shown once. */
export function Secret({ secret, close }: { secret: string; close: () => void }) {
  return (
    <Dialog title={t("The secret its calls are signed with")} close={close}>
      <p className="mb-2 text-[13.5px]">
        {t("Each call carries")} <span className="mono">{t("webhook-id")}</span>,{" "}
        <span className="mono">{t("webhook-timestamp")}</span> {t("and")}{" "}
        <span className="mono">{t("webhook-signature")}</span>
        {t(". Whoever is called proves it with this secret. It is shown now and never again.")}
      </p>
      <p className="mono mb-3 rounded bg-base-200 p-2 text-[13px] break-all">{secret}</p>
      <div className="flex justify-end">
        <button type="button" className="btn btn-primary" onClick={close}>
          {t("It is kept safe")}
        </button>
      </div>
    </Dialog>
  );
}
