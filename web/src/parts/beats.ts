/** Lengths in beats and bars, each as long as it is there; the core's rule (core/song/grid.py), held to its cases. */

import { lastAtOrBefore } from "./format";

/** Index of a time among two or more ascending ones, in fractions between them; on beyond the ends at the last step. */
export function placeAmong(points: readonly number[], at: number): number {
  const before = Math.min(Math.max(lastAtOrBefore(points, at), 0), points.length - 2);
  const [a, b] = [points[before] as number, points[before + 1] as number];
  return before + (at - a) / (b - a);
}

/** The inverse of {@link placeAmong}. */
export function timeAt(points: readonly number[], place: number): number {
  const before = Math.min(Math.max(Math.floor(place), 0), points.length - 2);
  const [a, b] = [points[before] as number, points[before + 1] as number];
  return a + (place - before) * (b - a);
}

interface Counted {
  beats: readonly number[];
  bars: readonly number[];
}

/** Number of beats from one time to another; none where the song has no beats. */
export function beatsBetween({ beats }: Pick<Counted, "beats">, from: number, to: number): number {
  return beats.length < 2 ? 0 : placeAmong(beats, to) - placeAmong(beats, from);
}

const barLines = ({ beats, bars }: Counted) => bars.map((i) => beats[i] as number);

/** Number of bars from one time to another; none where the song has no bars. */
export function barsBetween(song: Counted, from: number, to: number): number {
  const lines = barLines(song);
  return lines.length < 2 ? 0 : placeAmong(lines, to) - placeAmong(lines, from);
}

/** The time so many bars on from another. */
export function barsOn(song: Counted, from: number, bars: number): number {
  const lines = barLines(song);
  return lines.length < 2 ? from : timeAt(lines, placeAmong(lines, from) + bars);
}
