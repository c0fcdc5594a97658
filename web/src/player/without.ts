/** Steps that the page cannot draw, told once each. */

import { create } from "zustand";

interface Without {
  steps: readonly string[];
}

/** Steps that were left out of a picture, since this browser has no WebGL2; the film has them. */
export const useWithout = create<Without>(() => ({ steps: [] }));

/** Note steps that were left out. */
export function withoutSteps(steps: readonly string[]): void {
  const known = useWithout.getState().steps;
  const more = steps.filter((step) => !known.includes(step));
  if (more.length) useWithout.setState({ steps: [...known, ...more] });
}
