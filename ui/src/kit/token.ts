/** token is a colour of the theme, by its name: "--color-lagoon". */
export const token = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
