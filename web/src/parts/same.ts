import { replaceEqualDeep } from "@tanstack/react-query";
import { useState } from "react";

/** A value whose parts stay the very same objects as long as they are equal, so that what shows them is not drawn again. */
export function useSame<T>(fresh: T): T {
  const [kept, setKept] = useState(fresh);
  const same = replaceEqualDeep(kept, fresh) as T;
  // Set while rendering, as React has it for what is derived from what was before: nothing is drawn with the old one.
  if (same !== kept) setKept(same);
  return same;
}
