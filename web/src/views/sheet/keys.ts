/** Angles that the keys reach in a section. Pure. */

import type { AngleView, SongView } from "../../api/client";

/** Index of the section at a working time. */
export function sectionAt(song: SongView | null, seconds: number): number {
  const sections = song?.sections ?? [];
  const at = sections.findIndex((s) => seconds < s.end_s);
  return at < 0 ? Math.max(0, sections.length - 1) : at;
}

/** End of the section at a working time. */
export function sectionEnd(state: { song: SongView | null }, seconds: number): number | null {
  return state.song?.sections[sectionAt(state.song, seconds)]?.end_s ?? null;
}

/** The angles on keys, in the order of the keys; before the server says which, the first nine by their number. */
export function onKeys(
  angles: readonly AngleView[],
  keys: readonly (number | null)[] | undefined,
): { angle: AngleView; key: number }[] {
  if (!keys) return angles.slice(0, 9).map((angle) => ({ angle, key: angle.number }));
  return keys.flatMap((id, k) => {
    const angle = angles.find((a) => a.id === id);
    return angle ? [{ angle, key: k + 1 }] : [];
  });
}
