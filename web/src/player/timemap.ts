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

/** Of which frame the picture at a media time is made, and how much of the next is mixed in; a frame stands for its middle. */
export function mixAt(times: ArrayLike<number>, at: number): [frame: number, share: number] {
  const end = times.length - 1;
  const middle = (k: number) => {
    const from = Math.min(k, end - 1);
    return (times[k] as number) + ((times[from + 1] as number) - (times[from] as number)) / 2;
  };
  const shown = frameOnDisplay(times, at);
  if (end < 1) return [shown, 0];
  const first = Math.max(0, at < middle(shown) ? shown - 1 : shown);
  if (first >= end) return [end, 0];
  const share = Math.min(1, Math.max(0, (at - middle(first)) / Math.max(1e-9, middle(first + 1) - middle(first))));
  if (share > 1 - MIX_FROM) return [first + 1, 0];
  return [first, share < MIX_FROM ? 0 : share];
}
