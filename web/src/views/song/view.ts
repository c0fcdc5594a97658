import type { HitKind, SongView } from "../../api/client";
import { barLines, lastAtOrBefore } from "../../parts/format";

/** The stretch of the song that the score shows, in seconds. */
export interface View {
  from: number;
  to: number;
}

export type Zoom = "song" | "section" | "8 bars" | "beat" | "sample";

/** Range and zoom of the Song view. */
export interface Look {
  zoom: Zoom;
  /** Sensitivity of each kind of hits, as it is dragged. */
  sensitivities: Readonly<Record<string, number>>;
  /** Kinds of hits that are heard over the song. */
  heard: readonly HitKind[];
  mark: number | null;
  /** Times to which tidying would move marks, by mark. */
  ghosts: ReadonlyMap<number, number>;
}

const SHORTEST = 0.0004;

export function windowFor(zoom: Zoom, song: SongView, at: number): View {
  if (zoom === "song") return { from: 0, to: song.seconds };
  if (zoom === "section") {
    const s = song.sections.find((k) => at < k.end_s) ?? song.sections[0];
    return s ? { from: s.start_s, to: s.end_s } : { from: 0, to: song.seconds };
  }
  if (zoom === "sample") return shifted({ from: 0, to: 0.002 }, at - 0.001, song.seconds);
  const beat = 60 / song.bpm;
  const length = zoom === "8 bars" ? 8 * song.metre * beat : 1.5 * beat;
  const bar = [...barLines(song, 0, at + 0.01)].pop()?.at ?? 0;
  return shifted({ from: 0, to: length }, zoom === "beat" ? at - length / 2 : bar, song.seconds);
}

export function shifted(view: View, from: number, seconds: number): View {
  const length = view.to - view.from;
  const start = Math.min(Math.max(0, from), Math.max(0, seconds - length));
  return { from: start, to: start + length };
}

export function zoomed(view: View, at: number, factor: number, seconds: number): View {
  const length = Math.min(seconds, Math.max(SHORTEST, (view.to - view.from) * factor));
  const share = (at - view.from) / (view.to - view.from);
  return shifted({ from: 0, to: length }, at - share * length, seconds);
}

/** Pixels from the left of a song time. */
export function xOf(view: View, at: number, width: number): number {
  return ((at - view.from) / (view.to - view.from)) * width;
}

/** Index of the nearest of ascending times; -1 where there is none. */
export function nearestIndex(times: readonly number[], at: number): number {
  if (!times.length) return -1;
  const i = Math.max(0, lastAtOrBefore(times, at));
  const next = times[i + 1];
  return next !== undefined && Math.abs(next - at) < Math.abs((times[i] as number) - at) ? i + 1 : i;
}
