/** What is seen in a frame of the programme: layers, what hides what, and the look of each span there. */

import type { Schemas, SpanView } from "../api/client";
import { AS_FILMED } from "../api/facts";

export type Span = SpanView;
export type Layers = readonly (readonly Span[])[];

/** How a picture lies in the frame; the core's Look. */
export type Look = Record<keyof typeof AS_FILMED, number>;

export const AS_IT_IS: Look = AS_FILMED;

export type Key = Schemas["Key"];
export type Shape = Key["shape"];

/** How far a change is that has gone on for a share of its time, both 0 to 1. */
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

/** The look of a picture that lies like one, seen through another; the core's Look.within. */
export function within(inner: Look, outer: Look, aspect: number): Look {
  const flip = outer.mirror ? -1 : 1;
  const [cos, sin] = [Math.cos((outer.turn * Math.PI) / 180), Math.sin((outer.turn * Math.PI) / 180)];
  const [across, down] = [flip * inner.x * aspect, inner.y];
  return {
    scale: inner.scale * outer.scale,
    x: outer.x + (outer.scale * (cos * across - sin * down)) / aspect,
    y: outer.y + outer.scale * (sin * across + cos * down),
    turn: outer.turn + flip * inner.turn,
    opacity: inner.opacity * outer.opacity,
    lightness: Math.min(2, Math.max(0, inner.lightness + outer.lightness - 1)),
    mirror: Number(!inner.mirror !== !outer.mirror),
    vignette: 1 - (1 - inner.vignette) * (1 - outer.vignette),
    bars: outer.bars || inner.bars,
    blur: Math.hypot(inner.blur, outer.blur / Math.max(inner.scale, 1e-4)),
    sharpen: inner.sharpen + outer.sharpen,
    glow: 1 - (1 - inner.glow) * (1 - outer.glow),
    grain: outer.grain || inner.grain,
    grain_number: outer.grain ? outer.grain_number : inner.grain_number,
  };
}

/** The look of a span in a frame counted from its start; the film's width by its height. */
export function lookAt(span: Span, frame: number, aspect: number): Look {
  if (!span.curves) return AS_IT_IS;
  let look: Look | undefined;
  for (const curves of span.curves) {
    const one = { ...AS_IT_IS };
    for (const name in curves) one[name as keyof Look] = valueAt(curves[name] as Key[], frame);
    look = look ? within(look, one, aspect) : one;
  }
  return look ?? AS_IT_IS;
}

/** Whether nothing beneath can be seen. */
export function hides(span: Span, look: Look): boolean {
  const room = (look.scale - 1) / 2 + 1e-9;
  return (
    (span.kind === "picture" || span.kind === "black") &&
    look.opacity >= 1 &&
    look.turn % 360 === 0 &&
    Math.abs(look.x) <= room &&
    Math.abs(look.y) <= room
  );
}

/** The last span of a layer that begins at or before a frame, or -1. */
function lastFrom(spans: readonly Span[], frame: number): number {
  let low = 0;
  let high = spans.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((spans[middle] as Span).start <= frame) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

const reaches = new WeakMap<readonly Span[], readonly number[]>();

/** For each span of a layer the greatest end of those up to it. */
function reachOf(spans: readonly Span[]): readonly number[] {
  let known = reaches.get(spans);
  if (!known) {
    let most = 0;
    known = spans.map((s) => {
      most = Math.max(most, s.end);
      return most;
    });
    reaches.set(spans, known);
  }
  return known;
}

/** The spans of a layer that share a frame, from the top down, however many they are. */
function* covering(spans: readonly Span[], frame: number): Generator<Span> {
  const reach = reachOf(spans);
  for (let i = lastFrom(spans, frame); i >= 0 && (reach[i] as number) > frame; i--) {
    const span = spans[i] as Span;
    if (frame < span.end) yield span;
  }
}

/** The span of a layer on top in a frame, or undefined. */
export function spanAt(spans: readonly Span[], frame: number): Span | undefined {
  for (const span of covering(spans, frame)) return span;
  return undefined;
}

/** The first frame after one at which a span begins or ends; what is seen changes there, also where one comes in over another. */
export function nextEdge(layers: Layers, frame: number): number {
  let next = Number.POSITIVE_INFINITY;
  for (const spans of layers) {
    const coming = spans[lastFrom(spans, frame) + 1];
    if (coming) next = Math.min(next, coming.start);
    for (const { end } of covering(spans, frame)) next = Math.min(next, end);
  }
  return next;
}

export interface Seen {
  span: Span;
  look: Look;
}

/** What is seen in a frame, from the bottom up; holes, and what is hidden, are left out. */
export function seenAt(layers: Layers, frame: number, aspect: number): Seen[] {
  const out: Seen[] = [];
  for (let n = layers.length - 1; n >= 0; n--) {
    for (const span of covering(layers[n] as readonly Span[], frame)) {
      if (span.kind === "hole") continue;
      const look = lookAt(span, frame - span.start, aspect);
      out.unshift({ span, look });
      if (hides(span, look)) return out;
    }
  }
  return out;
}
