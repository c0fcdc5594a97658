/** The speed of a shot's picture over its frames, as it is drawn. Pure. */

import type { Schemas } from "../../../api/client";

type Piece = Schemas["Piece"];

/** Speeds between which a graph is drawn: those that are there and 0 and 1, with a little room. */
export function bounds(pieces: readonly Piece[], own: number): [number, number] {
  const speeds = pieces.flatMap((p) => [p.speed * own, p.end_speed * own]);
  const [low, high] = [Math.min(0, ...speeds), Math.max(1, ...speeds)];
  const room = (high - low) * 0.12;
  return [low < 0 ? low - room : 0, high + room];
}

/** The line of the speed: points of frames from the shot's first and speeds. */
export function line(pieces: readonly Piece[], own: number): [number, number][] {
  const out: [number, number][] = [];
  let at = 0;
  for (const p of pieces) {
    out.push([at, p.speed * own], [at + p.frames, p.end_speed * own]);
    at += p.frames;
  }
  return out;
}

/** Leaps of the picture: frames at which it does not go on from what was seen just before. */
export function leaps(pieces: readonly Piece[], rate: number): number[] {
  const out: number[] = [];
  let at = 0;
  for (const [n, p] of pieces.entries()) {
    const before = pieces[n - 1];
    if (before) {
      const ended = before.at_s + ((before.speed + before.end_speed) / 2) * (before.frames / rate);
      if (Math.abs(ended - p.at_s) > 0.5 / rate) out.push(at);
    }
    at += p.frames;
  }
  return out;
}

/** The frames over which each speed of a ramp runs, from change to change; without places the changes lie evenly. */
export function runs(at: readonly (number | null)[], speeds: number, first: number, end: number): [number, number][] {
  const even = Array.from({ length: speeds - 1 }, (_, k) => first + ((end - first) * (k + 1)) / speeds);
  const changes = at.length === speeds - 1 ? at.map((f, k) => f ?? (even[k] as number)) : even;
  const edges = [first, ...changes, end];
  return edges.slice(1).map((to, k) => [edges[k] as number, to]);
}

/** The speed of the picture in a frame counted from the first. */
export function speedOf(pieces: readonly Piece[], frame: number): number {
  let at = 0;
  for (const p of pieces) {
    if (frame < at + p.frames) return p.speed + ((p.end_speed - p.speed) * (frame - at)) / p.frames;
    at += p.frames;
  }
  return pieces.at(-1)?.end_speed ?? 1;
}

/** The shot's own speed at so many pixels from the top of a graph, in steps of a twentieth, never quite standing. */
export function speedAt(y: number, high: number, slowest: number, fastest: number, own: number): number {
  const speed = (fastest - (y / high) * (fastest - slowest)) / own;
  return Math.min(20, Math.max(0.05, Math.round(speed * 20) / 20));
}
