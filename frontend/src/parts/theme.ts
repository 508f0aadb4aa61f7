export type Theme = "system" | "day" | "night";

const KEY = "low-tide-theme";
const dark = window.matchMedia("(prefers-color-scheme: dark)");

export function chosenTheme(): Theme {
  const stored = localStorage.getItem(KEY);
  return stored === "day" || stored === "night" ? stored : "system";
}

export function isNight(): boolean {
  const chosen = chosenTheme();
  return chosen === "night" || (chosen === "system" && dark.matches);
}

export function applyTheme(): void {
  document.documentElement.dataset.theme = isNight() ? "night" : "day";
}

export function chooseTheme(theme: Theme): void {
  localStorage.setItem(KEY, theme);
  applyTheme();
}

dark.addEventListener("change", applyTheme);
