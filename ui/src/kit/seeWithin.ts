/** seeWithin scrolls a board so that something in it is seen; the page round the board stays where it is. */
export function seeWithin(board: HTMLElement | null, what: HTMLElement | null) {
  if (!board || !what) return;
  const outer = board.getBoundingClientRect();
  const inner = what.getBoundingClientRect();
  if (inner.top < outer.top) board.scrollTop -= outer.top - inner.top;
  else if (inner.bottom > outer.bottom) board.scrollTop += inner.bottom - outer.bottom;
}
