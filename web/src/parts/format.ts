import type { SongView } from "../api/client";

/** Last index whose value is at or before x; -1 before the first. */
export function lastAtOrBefore(values: readonly number[], x: number): number {
  let low = 0;
  let high = values.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((values[middle] as number) <= x) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

/** Bar and beat (from 1) of a song time. */
export function position(song: SongView, seconds: number): { bar: number; beat: number } {
  const i = Math.min(Math.max(lastAtOrBefore(song.beats, seconds + 1e-6), 0), song.beats.length - 2);
  const b = Math.max(lastAtOrBefore(song.bars, i), 0);
  return { bar: song.first_bar + b, beat: 1 + i - (song.bars[b] ?? 0) };
}

/** "13.1": bar and beat. */
export function barBeat(song: SongView, seconds: number): string {
  const { bar, beat } = position(song, seconds);
  return `${bar}.${beat}`;
}

/** Non-drop timecode of a frame; one before the song has a minus. */
export function timecode(frame: number, rate: number): string {
  if (frame < 0) return `−${timecode(-frame, rate)}`;
  const nominal = Math.round(rate);
  const two = (n: number) => String(n).padStart(2, "0");
  const seconds = Math.floor(frame / nominal);
  return `${two(Math.floor(seconds / 3600))}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}:${two(frame % nominal)}`;
}

/** Minutes and seconds, as 1:52.4. */
export function minutes(seconds: number): string {
  return `${Math.floor(seconds / 60)}:${(seconds % 60).toFixed(1).padStart(4, "0")}`;
}

/** Song times of the bar lines, with their numbers, inside a range. */
export function barLines(song: SongView, from: number, to: number): { bar: number; at: number }[] {
  return song.bars
    .map((beat, k) => ({ bar: song.first_bar + k, at: song.beats[beat] ?? 0 }))
    .filter((line) => line.at >= from && line.at < to);
}

/** The nearest beat to a song time. */
export function nearestBeat(song: SongView, seconds: number, halves = false): number {
  const i = Math.min(Math.max(lastAtOrBefore(song.beats, seconds), 0), song.beats.length - 2);
  const [a, b] = [song.beats[i] as number, song.beats[i + 1] as number];
  const options = halves ? [a, (a + b) / 2, b] : [a, b];
  return options.reduce((best, x) => (Math.abs(x - seconds) < Math.abs(best - seconds) ? x : best));
}

export function signed(value: number, digits: number): string {
  const size = Math.abs(value).toFixed(digits);
  if (Number(size) === 0) return size;
  return `${value < 0 ? "−" : "+"}${size}`;
}

export type Kept = readonly (readonly [number, number] | number[])[];

/** Song time of a working time, for the ranges of the song that are kept. */
export function toSong(kept: Kept, working: number): number {
  let rest = working;
  for (const [a = 0, b = 0] of kept) {
    if (rest < b - a) return a + rest;
    rest -= b - a;
  }
  return (kept.at(-1)?.[1] ?? 0) + rest;
}

/** Working time of a song time; what is left out falls on its join. */
export function toWorking(kept: Kept, song: number): number {
  let at = 0;
  for (const [a = 0, b = 0] of kept) {
    if (song < b) return at + Math.max(0, song - a);
    at += b - a;
  }
  return at;
}

/** The kept pieces of a song range: song start and end of each piece, and its working start. */
export function keptPieces(kept: Kept, from: number, to: number): { from: number; to: number; at: number }[] {
  let at = 0;
  const out: { from: number; to: number; at: number }[] = [];
  for (const [a = 0, b = 0] of kept) {
    const [low, high] = [Math.max(a, from), Math.min(b, to)];
    if (high > low) out.push({ from: low, to: high, at: at + low - a });
    at += b - a;
  }
  return out;
}

/** Words for a file that is not as it was added. */
export const CONDITION = { ok: "", offline: "offline", changed: "replaced", unreadable: "out of reach" } as const;
