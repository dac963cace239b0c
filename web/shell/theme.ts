/** Day and evening. The choice is small and per browser: local storage holds it. */
const KEY = "jubar-theme";
export type Theme = "day" | "evening";

export const currentTheme = (): Theme => (document.documentElement.dataset.theme === "evening" ? "evening" : "day");

export function setTheme(theme: Theme): void {
  document.documentElement.dataset.theme = theme;
  localStorage.setItem(KEY, theme);
}

export function applyStoredTheme(): void {
  const stored = localStorage.getItem(KEY);
  const evening = stored ? stored === "evening" : matchMedia("(prefers-color-scheme: dark)").matches;
  document.documentElement.dataset.theme = evening ? "evening" : "day";
}
