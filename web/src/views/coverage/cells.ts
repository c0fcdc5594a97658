/** Cells of the matrix: an angle in a section. Pure, so that it can be tested. */

import type { AngleView, PassView, SectionView, SongView } from "../../api/client";
import { barsBetween } from "../../parts/beats";
import { keptPieces, lastAtOrBefore } from "../../parts/format";

/** A cell: indexes of its angle and its section. */
export interface Cell {
  angle: number;
  section: number;
}

export type Way = "left" | "right" | "up" | "down";

/** The next cell in a direction; at an edge the same. */
export function walk(cell: Cell, way: Way, angles: number, sections: number): Cell {
  const [down, across] = { left: [0, -1], right: [0, 1], up: [-1, 0], down: [1, 0] }[way] as [number, number];
  return {
    angle: Math.min(Math.max(0, cell.angle + down), angles - 1),
    section: Math.min(Math.max(0, cell.section + across), sections - 1),
  };
}

/** Start for listening to a cell: its section's start, or as soon as all passes that begin in its first half are on. */
export function beginOf(section: SectionView, passes: readonly PassView[]): number {
  const half = (section.start_s + section.end_s) / 2;
  const starts = passes.map((p) => p.song_start_s).filter((at) => at < half);
  return Math.max(section.start_s, ...starts) + 1e-3;
}

/** Place and width of a range of seconds on a lane, in per cent. */
export function across(from: number, to: number, seconds: number): { left: string; width: string } {
  const [a, b] = [Math.max(0, from), Math.min(seconds, to)];
  return { left: `${(100 * a) / seconds}%`, width: `${(100 * Math.max(0, b - a)) / seconds}%` };
}

/** The kept parts of a pass in working time; a piece for each kept range that it reaches into. */
export function workingPasses(pass: PassView, kept: readonly number[][]): PassView[] {
  return keptPieces(kept, pass.song_start_s, pass.song_end_s).map(({ from, to, at }) => ({
    ...pass,
    song_start_s: at,
    song_end_s: at + to - from,
    take_start_s: pass.take_start_s + (from - pass.song_start_s) / pass.rate,
    take_end_s: pass.take_start_s + (to - pass.song_start_s) / pass.rate,
  }));
}

/** Put passes that overlap on lanes of their own. */
export function stacked(passes: readonly PassView[]): { of: Map<PassView, number>; count: number } {
  const ends: number[] = [];
  const of = new Map<PassView, number>();
  for (const p of [...passes].sort((a, b) => a.song_start_s - b.song_start_s)) {
    let lane = ends.findIndex((e) => e <= p.song_start_s + 0.01);
    if (lane < 0) lane = ends.length;
    ends[lane] = p.song_end_s;
    of.set(p, lane);
  }
  return { of, count: ends.length };
}

/** Gaps of an angle in a section that it has some of, in seconds; a section that it has none of is no hole. */
export function gaps(angle: AngleView, section: SectionView, rate: number): [number, number][] {
  const [first, end] = [section.start_s, section.end_s];
  const inside = angle.holes
    .map(([a = 0, b = 0]): [number, number] => [Math.max(first, a / rate), Math.min(end, b / rate)])
    .filter(([a, b]) => b - a > 0.5 / rate);
  const missing = inside.reduce((sum, [a, b]) => sum + b - a, 0);
  return missing < end - first - 0.5 / rate ? inside : [];
}

/** Number of beats in a range of seconds, in words: "3 beats", "2 bars". */
export function inBeats(song: SongView, from: number, to: number): string {
  const beats = Math.max(1, lastAtOrBefore(song.beats, to - 1e-3) - lastAtOrBefore(song.beats, from - 1e-3));
  const bars = barsBetween(song, from, to);
  const whole = Math.round(bars);
  const [count, word] = whole && Math.abs(bars - whole) < 0.05 ? [whole, "bar"] : [beats, "beat"];
  return `${count} ${word}${count === 1 ? "" : "s"}`;
}

/** The action of a key in a cell that its angle's number would not do: null where the key is the number, or nothing is there. */
export function keyNote(angle: AngleView, keys: readonly (number | null)[] | undefined): string | null {
  const key = keys ? keys.indexOf(angle.id) + 1 : 0;
  return key && key !== angle.number ? `key ${key}` : null;
}

/** A pass's name: its file's, with a number where its take has several. */
export function passName(file: string, pass: number, siblings: readonly { id: number }[]): string {
  return siblings.length > 1 ? `${file} p${siblings.findIndex((p) => p.id === pass) + 1}` : file;
}
