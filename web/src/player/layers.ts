/** The visible stack of a frame of the programme: layers, occlusion, and the steps that act on each span there. */

import type { SpanView } from "../api/client";
import { type Act, actsAt, covers } from "./chain";

export type Span = SpanView;
export type Layers = readonly (readonly Span[])[];

/** True where nothing beneath a span can be seen. */
export function hides(span: Span, acts: readonly Act[]): boolean {
  return (span.kind === "picture" || span.kind === "black") && covers(acts);
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

/** Cards that begin within so many frames after one, at most so many of each layer. */
export function* coming(layers: Layers, frame: number, within: number, most: number): Generator<Span> {
  for (const spans of layers) {
    const first = lastFrom(spans, frame) + 1;
    for (let i = first; i < Math.min(spans.length, first + most); i++) {
      const span = spans[i] as Span;
      if (span.start > frame + within) break;
      if (span.card) yield span;
    }
  }
}

export interface Seen {
  span: Span;
  acts: readonly Act[];
}

/** Visible spans of a frame, from the bottom up; holes, and spans that are hidden, are left out. */
export function seenAt(layers: Layers, frame: number, aspect: number): Seen[] {
  const out: Seen[] = [];
  for (let n = layers.length - 1; n >= 0; n--) {
    for (const span of covering(layers[n] as readonly Span[], frame)) {
      if (span.kind === "hole") continue;
      const acts = actsAt(span, frame - span.start, aspect);
      out.unshift({ span, acts });
      if (hides(span, acts)) return out;
    }
  }
  return out;
}
