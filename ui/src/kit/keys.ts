const name = "porch-keys";

/** keysAreOn tells whether single keys do anything for this member. */
export const keysAreOn = () => localStorage.getItem(name) !== "off";

/** keepKeys switches single keys on or off. */
export const keepKeys = (on: boolean) => localStorage.setItem(name, on ? "on" : "off");

/** singleKey is the key that was pressed by itself and not into a text field, in small letters; undefined for any other. */
export function singleKey(e: KeyboardEvent): string | undefined {
  const within = e.target instanceof Element && e.target.closest("input, textarea, select, [contenteditable]");
  return e.ctrlKey || e.metaKey || e.altKey || within || !keysAreOn() ? undefined : e.key.toLowerCase();
}
