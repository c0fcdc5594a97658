import { useEffect, useRef } from "react";

/**
 * A value that is stepped by key faster than it is written: each press goes on from the one before it.
 *
 * @param value The value as it is known.
 * @param change Writes another; its promise ends once that is done, with nothing where it was refused.
 */
export function useStepped(value: number, change: (value: number) => unknown) {
  const ahead = useRef<number | null>(null);
  const open = useRef(0);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is known changed: from here on it counts
  useEffect(() => {
    if (!open.current) ahead.current = null;
  }, [value]);
  return async (next: (from: number) => number) => {
    const to = next(ahead.current ?? value);
    ahead.current = to;
    open.current++;
    const done = await change(to);
    open.current--;
    if (!open.current && !done) ahead.current = null;
  };
}
