import type { MarkView, SongView } from "../api/client";
import { hues } from "../theme";

type Song = Pick<SongView, "marks" | "mark_sets">;

/** The colour of a mark: its own, else that of its set. */
export function markColour(song: Song, mark: MarkView): string {
  const set = song.mark_sets.find((s) => s.id === mark.set_id);
  return hues[(mark.hue >= 0 ? mark.hue : (set?.hue ?? 0)) % hues.length] as string;
}

/** Marks of the sets that are shown, in a range of working time. */
export function marksIn(song: Song, start: number, end: number): MarkView[] {
  const shown = new Set(song.mark_sets.filter((s) => s.shown).map((s) => s.id));
  return song.marks.filter((m) => shown.has(m.set_id) && m.at_s >= start && m.at_s < end);
}
