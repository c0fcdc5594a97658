/** The chain of a picture in the page: its steps in a frame, in the order in which they act. Held to the core by shared cases. */

import type { Schemas, SpanView } from "../api/client";
import { REST } from "../api/facts";
import { STEPS } from "./steps";
import type { Act, Values } from "./steps/step";

export type Key = Schemas["Key"];
export type Shape = Key["shape"];
export type { Act, Values } from "./steps/step";

/** The chain of a picture as it is. */
export const PLAIN: readonly Act[] = [];

/** Progress of a change after a share of its time, both 0 to 1. */
export function shaped(shape: Shape, x: number): number {
  if (shape === "smooth") return x * x * (3 - 2 * x);
  if (shape === "slow start") return x * x;
  if (shape === "slow end") return x * (2 - x);
  if (shape === "sharp") return x * x * x * (x * (6 * x - 15) + 10);
  return shape === "hold" ? 0 : x;
}

/** The value of a curve in a frame: at the frame's middle. */
export function valueAt(keys: readonly Key[], frame: number): number {
  const here = frame + 0.5;
  let before = keys[0] as Key;
  for (const key of keys) {
    if (key.frame > here) {
      if (key === before || before.shape === "hold") return before.value;
      const share = (here - before.frame) / (key.frame - before.frame);
      return before.value + shaped(before.shape, share) * (key.value - before.value);
    }
    before = key;
  }
  return before.value;
}

/** Steps of a span that do something in a frame counted from its start, neighbours of one kind composed. */
export function actsAt(span: Pick<SpanView, "chain">, frame: number, aspect: number): readonly Act[] {
  if (!span.chain) return PLAIN;
  const out: Act[] = [];
  for (const { step, curves } of span.chain) {
    const rest = REST[step];
    if (!rest) continue;
    let values: Record<string, number> = { ...rest };
    for (const name in curves) values[name] = valueAt(curves[name] as Key[], frame);
    if (rests(values, rest)) continue;
    const joined = STEPS[step]?.joined;
    if (joined && out.at(-1)?.step === step) {
      values = joined((out.pop() as Act).values, values, aspect);
      if (rests(values, rest)) continue;
    }
    out.push({ step, values });
  }
  return out.length ? out : PLAIN;
}

function rests(values: Values, rest: Values): boolean {
  for (const name in rest) if (values[name] !== rest[name]) return false;
  return true;
}

/** The chain of a picture that lies so in the frame. */
export function placedBy(placed: { scale: number; x: number; y: number; turn: number }): readonly Act[] {
  const rest = REST.place as Values;
  const values = { ...rest, ...placed };
  return rests(values, rest) ? PLAIN : [{ step: "place", values }];
}

/** True where a picture that fills the frame still hides all that lies beneath it. */
export function covers(acts: readonly Act[]): boolean {
  return acts.every(({ step, values }) => STEPS[step]?.covers?.(values) ?? true);
}
