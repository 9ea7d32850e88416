import { useState } from "react";
import { client, ok } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Copied } from "../../parts/Sheet";
import { t } from "../../words";

/** Make the calendar feed of whoever is signed in; its address is shown once. */
export function FeedDialog({ close }: { close: () => void }) {
  const { attempt, rest } = useDraft({});
  const [address, setAddress] = useState("");
  const make = async () => {
    await attempt(async () => {
      const made = await ok(client.POST("/api/lifecycle/feed"));
      setAddress(`${window.location.origin}${made.path}`);
    });
  };
  return (
    <Dialog title={t("Calendar feed")} close={close}>
      <p className="pb-3 text-[13.5px]">
        {t(
          "An address that a calendar program subscribes to: ends of contracts and terms, and the last days to give notice, as you see them. Whoever has the address reads the calendar; making a new one ends the former.",
        )}
      </p>
      {address ? (
        <Copied label={t("Its address, shown now and never again")} text={address} />
      ) : (
        <button type="button" className="btn btn-primary" onClick={() => void make()}>
          {t("Make an address")}
        </button>
      )}
      {rest}
      <div className="mt-3 flex justify-end">
        <button type="button" className="btn" onClick={close}>
          {address ? t("It is kept") : t("Leave")}
        </button>
      </div>
    </Dialog>
  );
}
