/** titled begins a word with a capital: a platform's name, a standing. */
export const titled = (s?: string): string => (s ? s[0]!.toUpperCase() + s.slice(1) : "");
