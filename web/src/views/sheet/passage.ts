/** The passage that is worked on, and what is said of shots. Pure. */

import { type Lanes, shotsOf } from "../../api/lanes";
import type { ItemView, SectionView, SongView } from "../../api/client";
import { barsBetween, barsOn, beatsBetween } from "../../parts/beats";
import { lastAtOrBefore } from "../../parts/format";
import { frameAt } from "../../player/timemap";

export interface Passage {
  first: number;
  end: number;
  name: string;
}

/**
 * The passage that is worked on: the loop where there is one, else the section at the playhead, by the frames that the server tells.
 * A cut with a lead belongs to the section that it begins.
 */
export function passageOf(
  song: SongView,
  loop: readonly [number, number] | { first: number; end: number } | null,
  at: number,
  { rate, length }: { rate: number; length: number },
): Passage {
  if (loop && "first" in loop) return { ...loop, name: "the chosen shots" };
  if (loop) return { first: frameAt(loop[0], rate), end: Math.min(length, frameAt(loop[1], rate)), name: "the loop" };
  const found = song.sections.findIndex((s) => at < s.end_s);
  const section = song.sections[found < 0 ? song.sections.length - 1 : found];
  if (!section) return { first: 0, end: length, name: "the song" };
  return { first: section.first_frame, end: section.end_frame, name: section.name };
}

/** A range with the whole of the shots that it touches. */
export function wholeShots(
  range: { first: number; end: number },
  shots: readonly Pick<ItemView, "start" | "end">[],
): { first: number; end: number } {
  const inside = shots.filter((s) => s.end > range.first && s.start < range.end);
  return { first: inside[0]?.start ?? range.first, end: inside.at(-1)?.end ?? range.end };
}

/** A bar before a cut to a bar after it, in seconds. */
export function aroundCut(song: SongView, cut: number, rate: number): [number, number] {
  const at = cut / rate;
  return [Math.max(0, barsOn(song, at, -1)), Math.min(song.seconds, barsOn(song, at, 1))];
}

/** A shot's length in beats, bars, frames and seconds. */
export function lengthOf(song: SongView, shot: Pick<ItemView, "start" | "end">, rate: number): string {
  const frames = shot.end - shot.start;
  const beats = beatsBetween(song, shot.start / rate, shot.end / rate);
  const rounded = Math.round(beats * 10) / 10;
  const said = `${rounded} ${rounded === 1 ? "beat" : "beats"}`;
  const bars = barsBetween(song, shot.start / rate, shot.end / rate);
  const whole = Math.abs(bars - Math.round(bars)) < 0.02 && Math.round(bars) > 0;
  const inBars = whole ? ` · ${Math.round(bars)} bar${Math.round(bars) === 1 ? "" : "s"}` : "";
  return `${said}${inBars} · ${frames} f · ${(frames / rate).toFixed(2)} s`;
}

/** Time for which the angle of a shot was away before it; null where it was never on before. */
export function awayFor(
  song: SongView,
  shots: readonly ItemView[],
  index: number,
  rate: number,
): { beats: number; bars: number } | null {
  const shot = shots[index];
  const before = shots
    .slice(0, index)
    .findLast((s) => s.source.kind === "angle" && s.source.angle === shot?.source.angle);
  if (!shot || !before || shot.source.kind !== "angle") return null;
  const [from, to] = [before.end / rate, shot.start / rate];
  return { beats: beatsBetween(song, from, to), bars: barsBetween(song, from, to) };
}

/** The place of the next switch: the beat after a time, and how many beats away it is. */
export function nextBeat(song: SongView, at: number): { beat: number; away: number } | null {
  const index = lastAtOrBefore(song.beats, at) + 1;
  const beat = song.beats[index];
  return beat === undefined ? null : { beat, away: beatsBetween(song, at, beat) };
}

/** Shots that begin in a passage: how many, their mean length in beats, and how many angles. */
export function summary(song: SongView, edit: Lanes, passage: Passage, rate: number): string {
  const shots = shotsOf(edit).filter((s) => s.start >= passage.first && s.start < passage.end);
  if (!shots.length) return "no cut";
  const beats = meanBeats(song, shots, rate).toFixed(1);
  const angles = new Set(shots.filter((s) => s.source.kind === "angle").map((s) => s.source.angle)).size;
  const empty = shots.filter((s) => s.source.kind === "empty").length;
  return `${shots.length} ${shots.length === 1 ? "shot" : "shots"}, ${beats} beats each, ${angles} ${angles === 1 ? "angle" : "angles"}${empty ? `, ${empty} empty` : ""}`;
}

/** Mean length of shots in beats. */
export function meanBeats(song: SongView, shots: readonly Pick<ItemView, "start" | "end">[], rate: number): number {
  const sum = shots.reduce((all, s) => all + beatsBetween(song, s.start / rate, s.end / rate), 0);
  return sum / Math.max(1, shots.length);
}

/** Other passages with the same music first, to cut as. */
export function modelsFor(song: SongView, section: SectionView): SectionView[] {
  const others = song.sections.filter((s) => s.id !== section.id);
  return [...others].sort((a, b) => Number(b.group === section.group) - Number(a.group === section.group));
}
