/** Places and lengths in the music as an editor types them. Pure, so that it can be tested. */

import type { SongView } from "../api/client";
import { placeAmong, timeAt } from "./beats";

export type Music = Pick<SongView, "beats" | "bars" | "first_bar" | "sections" | "marks">;

/** A number with its unit. */
const NAMED = /^([\d.]+)\s*(bars?|beats?|s|f)$/;

/**
 * The time, in seconds, of a place that is typed: bar and beat ("17", "17.3"), minutes and seconds ("0:41.5"), a timecode
 * ("00:00:41:12"), seconds or frames ("41 s", "980 f"), the name of a mark or section. Undefined where it is none.
 */
export function placeOf(text: string, song: Music, rate: number): number | undefined {
  const typed = text.trim().toLowerCase();
  const code = typed.split(":");
  if (code.length > 1) {
    const parts = code.map(Number);
    if (parts.some((p) => !Number.isFinite(p) || p < 0)) return undefined;
    const frames = code.length === 4 ? (parts.pop() as number) : 0;
    return parts.reduce((sum, part) => sum * 60 + part, 0) + frames / rate;
  }
  const named = NAMED.exec(typed);
  if (named?.[2] === "s") return Number(named[1]);
  if (named?.[2] === "f") return Number(named[1]) / rate;
  const numbers = /^(\d+)(?:\.(\d+))?$/.exec(typed);
  if (numbers) {
    const [bar, beat] = [Number(numbers[1]), Number(numbers[2] ?? 1)];
    const first = song.bars[bar - song.first_bar];
    const next = song.bars[bar - song.first_bar + 1] ?? song.beats.length;
    return first === undefined || beat < 1 || first + beat - 1 >= next ? undefined : song.beats[first + beat - 1];
  }
  if (!typed) return undefined;
  const mark = song.marks.find((m) => m.name.toLowerCase() === typed);
  const section = song.sections.find((s) => s.name.toLowerCase().startsWith(typed));
  return mark?.at_s ?? section?.start_s;
}

/**
 * The frame at which something ends that begins at a frame and is as long as is typed: "2 bars", "3 beats", "1.5 s", "36 f"
 * or "36". Undefined where no length is typed.
 */
export function endOf(
  text: string,
  song: Pick<Music, "beats" | "bars">,
  start: number,
  rate: number,
): number | undefined {
  const typed = text.trim().toLowerCase().replace(",", ".");
  const [, number, unit = "f"] = NAMED.exec(typed) ?? /^(\d+)()$/.exec(typed) ?? [];
  const count = Number(number);
  if (!number || !(count > 0)) return undefined;
  if (unit === "s") return start + Math.round(count * rate);
  if (unit === "" || unit === "f") return start + Math.round(count);
  const points = unit.startsWith("bar") ? song.bars.map((i) => song.beats[i] as number) : song.beats;
  if (points.length < 2) return undefined;
  return Math.round(timeAt(points, placeAmong(points, start / rate) + count) * rate);
}
