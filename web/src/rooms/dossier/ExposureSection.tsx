import { OpenTo } from "../../parts/OpenTo";
import { Section } from "../../parts/Section";
import { t } from "../../words";

/** What the device is open to, as of a day. */
export function ExposureSection({ number, at }: { number: string; at: string | undefined }) {
  return (
    <Section id="exposure" title={t("Open to")} flush>
      <OpenTo number={number} at={at} />
    </Section>
  );
}
