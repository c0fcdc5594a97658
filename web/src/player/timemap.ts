/** The programme's time, by the core's rule: which frame, which media time, which source frame. */

import type { Schemas } from "../api/client";

/** Frames at a steady or evenly changing speed; the core's Piece. */
export type Piece = Schemas["Piece"];

const NONE: Piece = { frames: 1, at_s: 0, speed: 0, end_speed: 0 };

/** Slack in seconds when a time falls exactly on a presentation time; the same as the core's. */
const ON_TIME = 1e-6;

/** Media time on display at the middle of a frame of a run of pieces; beyond the last, that piece goes on. */
export function mediaTime(pieces: readonly Piece[], frame: number, rate: number): number {
  let k = frame;
  let last = 0;
  while (last < pieces.length - 1 && k >= (pieces[last] as Piece).frames) k -= (pieces[last++] as Piece).frames;
  const { frames, at_s, speed, end_speed } = pieces[last] ?? NONE;
  const t = (k + 0.5) / rate;
  return at_s + speed * t + ((end_speed - speed) * t * t * rate) / (2 * frames);
}

/** Index of the last source frame presented at or before a media time. */
export function frameOnDisplay(times: ArrayLike<number>, at: number): number {
  let low = 0;
  let high = times.length;
  const limit = at + ON_TIME;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((times[middle] as number) <= limit) low = middle + 1;
    else high = middle;
  }
  return Math.max(0, low - 1);
}

/** The programme frame on screen at a song time. */
export function frameAt(seconds: number, rate: number): number {
  return Math.floor(seconds * rate + ON_TIME);
}

/** The least share of the next frame that is mixed in; the core's MIX_FROM. */
const MIX_FROM = 1 / 64;

/** How much of the frame after the one on display is mixed in at a media time. */
export function shareOfNext(times: ArrayLike<number>, shown: number, at: number): number {
  const [here, next] = [times[shown], times[shown + 1]];
  if (here === undefined || next === undefined) return 0;
  const share = Math.min(1, Math.max(0, (at - here) / Math.max(1e-9, next - here)));
  return share < MIX_FROM ? 0 : share;
}
