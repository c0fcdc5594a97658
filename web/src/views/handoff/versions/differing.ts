/** Differences of two versions in words, and the passages that are taken over. Pure. */

import type { SongView } from "../../../api/client";
import type { Difference } from "../../../api/versions";
import { barBeat } from "../../../parts/format";

/** In what way something differs. */
export const WORDS: Readonly<Record<Difference["what"], string>> = {
  source: "another picture",
  time: "another moment or speed",
  treatment: "treated otherwise",
  colour: "other colour",
  title: "other words",
  "only here": "only in this one",
  "only there": "only in the other",
};

/** Passage of the film: its first frame, and the frame after its last. */
export type Passage = Pick<Difference, "first" | "end">;

/** Where a difference lies, in bars and beats. */
export function placeOf(song: SongView, { first, end }: Passage, rate: number): string {
  return `${barBeat(song, (first + 0.5) / rate)} to ${barBeat(song, (end - 0.5) / rate)}`;
}

/** The section in which a frame lies, as far as the film goes. */
export function sectionAt(song: SongView, frame: number, film: Passage): Passage & { name: string } {
  const found = song.sections.findLast((s) => s.first_frame <= frame);
  if (!found) return { name: "before the song", first: film.first, end: song.sections[0]?.first_frame ?? film.end };
  return { name: found.name, first: found.first_frame, end: found.end_frame };
}

/** Differences that lie in a passage. */
export const inside = (differ: readonly Difference[], { first, end }: Passage): readonly Difference[] =>
  differ.filter((d) => d.first < end && d.end > first);
