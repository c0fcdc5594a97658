/** Layers with a grade that is being dragged changed in place, between two answers of the server. Pure. */

import { REST as AT_REST } from "../../../api/facts";
import type { Layers, Span } from "../../../player/layers";
import { changed, type Values } from "./grade";

type Step = NonNullable<Span["chain"]>[number];

/** A range of frames. */
export interface Frames {
  start: number;
  end: number;
}

const inside = (span: Span, of: readonly Frames[]) => of.some((f) => span.start < f.end && f.start < span.end);

/** The step of a grade whose values stand. */
const stepOf = (values: Values): Step => ({
  step: "grade",
  curves: Object.fromEntries(
    Object.entries(changed(values)).map(([name, value]) => [name, [{ frame: 0, value, shape: "hold" as const }]]),
  ),
});

function isGrade({ step, curves }: Step, values: Values): boolean {
  if (step !== "grade") return false;
  return Object.entries(AT_REST.grade ?? {}).every(([name, rest]) => {
    const keys = curves[name];
    return keys ? keys.length === 1 && keys[0]?.value === values[name] : values[name] === rest;
  });
}

/** Layers in which the grade that has some values has others, in spans of some frames; null where none has it. */
export function regraded(layers: Layers, of: readonly Frames[], from: Values, to: Values): Layers | null {
  let found = false;
  const after = layers.map((spans) =>
    spans.map((span) => {
      const at = inside(span, of) ? (span.chain ?? []).findIndex((s) => isGrade(s, from)) : -1;
      if (at < 0) return span;
      found = true;
      return { ...span, chain: (span.chain ?? []).map((s, n) => (n === at ? stepOf(to) : s)) };
    }),
  );
  return found ? after : null;
}

/** Layers in which a file has another grade of its own, which comes after so many steps of its chain. */
export function regradedFile(layers: Layers, media: string, before: number, has: boolean, to: Values): Layers {
  return layers.map((spans) =>
    spans.map((span) => {
      if (span.media !== media) return span;
      const chain = span.chain ?? [];
      return { ...span, chain: [...chain.slice(0, before), stepOf(to), ...chain.slice(before + Number(has))] };
    }),
  );
}
