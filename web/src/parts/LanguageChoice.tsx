import { client, ok } from "../api/client";
import { LANGUAGES, type Language, language, speak, t } from "../words";
import { sayRefused } from "./refusal";

/** In which language Tarn and its letters are read: kept with the person, so that it holds on every machine. */
export function LanguageChoice() {
  const choose = (chosen: Language) =>
    ok(client.PUT("/api/me/language", { body: { language: chosen } })).then(
      () => speak(chosen),
      (error) => sayRefused(error, t("It was not changed.")),
    );
  return (
    <label className="flex items-center gap-3">
      <span className="dim">{t("Language")}</span>
      <select
        className="select select-sm w-40"
        value={language()}
        onChange={(e) => void choose(e.target.value as Language)}
      >
        {Object.entries(LANGUAGES).map(([key, name]) => (
          <option key={key} value={key} lang={key}>
            {name}
          </option>
        ))}
      </select>
    </label>
  );
}
