/** turns gives what is to be done its turn: each begins once the one before is over, whatever became of that. */
export function turns() {
  let before: Promise<unknown> = Promise.resolve();
  return <T>(act: () => Promise<T>): Promise<T> => {
    const mine = before.then(act);
    before = mine.catch(() => undefined);
    return mine;
  };
}
