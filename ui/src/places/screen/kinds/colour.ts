/** tokenOf is a colour of ours, as it stands in the tokens. */
export const tokenOf = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

/** luminance is a colour's, as WCAG 2.2 has it (relative luminance). */
function luminance(hex: string): number {
  const [r, g, b] = [1, 3, 5].map((i) => {
    const c = parseInt(hex.slice(i, i + 2), 16) / 255;
    return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
  });
  return 0.2126 * r! + 0.7152 * g! + 0.0722 * b!;
}

/** contrast is how far two colours, "#rrggbb", stand from each other: 1 to 21. */
export function contrast(a: string, b: string): number {
  const [high, low] = [luminance(a), luminance(b)].sort((x, y) => y - x);
  return (high! + 0.05) / (low! + 0.05);
}
