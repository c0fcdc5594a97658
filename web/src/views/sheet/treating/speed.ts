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

/** Where the picture leaps: frames at which it does not go on from what was seen just before. */
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
