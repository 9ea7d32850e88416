import { believed, type Claims, type Row } from "../../api/types";
import { fieldsOf, shown, useOwn } from "../../parts/own/own";
import { Section } from "../../parts/Section";
import { Fact } from "../../parts/Why";
import { t } from "../../words";

/** The company's own fields of an asset's kind, with who says what. */
export function OwnSection({ plate, claims }: { plate: Row; claims: Claims }) {
  const own = useOwn().data;
  const fields = fieldsOf(own, String(plate.kind ?? ""));
  const said = Object.keys(claims).filter((c) => c.startsWith("own:"));
  const names = [...new Set([...fields.map((f) => f.name), ...said.map((c) => c.slice(4))])];
  if (names.length === 0) return null;
  return (
    <Section id="own" title={t("Your own fields")}>
      <dl className="facts">
        {names.map((name) => {
          const field = own?.fields.find((f) => f.name === name);
          const value =
            field?.type === "made of others" ? plate[`field:${name}`] : believed(claims, `own:${name}`);
          return (
            <Fact
              key={name}
              label={name === "tags" ? t("Tags") : name}
              field={`own:${name}`}
              value={shown(field, value) || null}
              claims={claims}
            />
          );
        })}
      </dl>
    </Section>
  );
}
