/**
 * Work that is asked for one after the other is done one after the other: the answer that comes last is that of what
 * was asked last, however long each takes. What fails does not hold up what follows.
 */
export function ordered(): <T>(work: () => Promise<T>) => Promise<T> {
  let last: Promise<unknown> = Promise.resolve();
  return (work) => {
    const next = last.then(work, work);
    last = next.catch(() => undefined);
    return next;
  };
}
