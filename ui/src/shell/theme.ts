const key = "porch-theme";

/** applyTheme puts the chosen theme in force: dusk unless linen was chosen. */
export function applyTheme(theme = localStorage.getItem(key) ?? "dusk") {
  localStorage.setItem(key, theme);
  if (theme === "linen") document.documentElement.dataset.theme = "linen";
  else delete document.documentElement.dataset.theme;
}

export const theme = () => (document.documentElement.dataset.theme === "linen" ? "linen" : "dusk");
