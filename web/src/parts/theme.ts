/** Day and night colours, remembered on this computer. */
export type Theme = "tarn" | "tarn-night";

export function currentTheme(): Theme {
  return localStorage.getItem("theme") === "tarn-night" ? "tarn-night" : "tarn";
}

export function applyTheme(theme: Theme): void {
  localStorage.setItem("theme", theme);
  document.documentElement.dataset.theme = theme;
}
