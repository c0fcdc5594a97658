/** Places that what is dragged on the sheet is pulled to: those on which cuts fall, as the core says. */

import type { SongView, Unit } from "../../api/client";
import { HIT_KINDS, HITS } from "../../api/facts";

/** What cuts can fall on, with what it is called in the toolbar and of one place. */
export const UNITS: readonly { value: Unit; label: string; one: string }[] = [
  { value: "free", label: "free", one: "beat" },
  { value: "half", label: "½ beat", one: "half beat" },
  { value: "beat", label: "beat", one: "beat" },
  { value: "bar", label: "bar", one: "bar" },
  { value: "phrase", label: "phrase", one: "phrase" },
  { value: "mark", label: "marks", one: "mark" },
  { value: "line", label: "lyrics", one: "line" },
  ...HIT_KINDS.map((value) => ({ value, label: HITS[value].many, one: HITS[value].one })),
];

type Falls = Pick<SongView, "falls">;

/** Nearest of some ascending frames; undefined where there is none. */
export function nearest(frame: number, frames: readonly number[]): number | undefined {
  let low = 0;
  let high = frames.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((frames[middle] as number) < frame) low = middle + 1;
    else high = middle;
  }
  const [before, after] = [frames[low - 1], frames[low]];
  if (before === undefined || after === undefined) return before ?? after;
  return frame - before <= after - frame ? before : after;
}

/** Frames within which something that is dragged is pulled: a tenth of a second. */
export function reachOf(rate: number): number {
  return Math.floor(rate / 10);
}

/** The frame to which one is pulled within a reach; itself where nothing is near, or cuts fall freely. */
export function pulled(frame: number, song: Falls, unit: Unit, reach: number): number {
  const best = nearest(frame, song.falls[unit] ?? []);
  return best !== undefined && Math.abs(best - frame) <= reach ? best : frame;
}

/** The place of a frame beside the nearest of what cuts fall on: "on the mark", "2 f after the mark"; where cuts fall freely, of the beats. */
export function besides(frame: number, song: Falls, unit: Unit): string {
  const best = nearest(frame, song.falls[unit === "free" ? "beat" : unit] ?? []);
  if (best === undefined) return "";
  const one = UNITS.find((u) => u.value === unit)?.one ?? unit;
  const off = frame - best;
  return off === 0 ? `on the ${one}` : `${Math.abs(off)} f ${off > 0 ? "after" : "before"} the ${one}`;
}

/** The next place of what cuts fall on, after a frame or before it. */
export function nextPlace(frame: number, song: Falls, unit: Unit, by: 1 | -1): number | undefined {
  const frames = song.falls[unit === "free" ? "beat" : unit] ?? [];
  return by > 0 ? frames.find((f) => f > frame) : frames.findLast((f) => f < frame);
}
