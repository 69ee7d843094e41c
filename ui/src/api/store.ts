/** A value that parts of the page look at and are told of when it changes, without a framework; useSyncExternalStore takes it as it is. */
export function store<T>(first: T) {
  let value = first;
  const listeners = new Set<() => void>();
  return {
    current: () => value,
    set(next: T) {
      value = next;
      listeners.forEach((l) => l());
    },
    subscribe(l: () => void) {
      listeners.add(l);
      return () => void listeners.delete(l);
    },
  };
}
