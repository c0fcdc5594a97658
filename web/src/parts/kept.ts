import { useCallback, useState } from "react";

/** A value that this browser keeps between visits; the first where it has none, or one that cannot be read. */
export function kept<T>(key: string, first: T): T {
  try {
    return (JSON.parse(localStorage.getItem(key) ?? "null") as T | null) ?? first;
  } catch {
    return first;
  }
}

/** The same as a state that is kept whenever it is set. */
export function useKept<T>(key: string, first: T): [T, (value: T) => void] {
  const [value, setValue] = useState<T>(() => kept(key, first));
  const keep = useCallback(
    (next: T) => {
      setValue(next);
      localStorage.setItem(key, JSON.stringify(next));
    },
    [key],
  );
  return [value, keep];
}
