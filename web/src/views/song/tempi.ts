import type { SongView } from "../../api/client";
import { type View, xOf } from "./view";

/** Width of a tag with a tempo, in pixels. */
const TAG_PX = 56;

/** A tempo that is kept from a place on. */
export interface Tag {
  at: number;
  x: number;
  bpm: number;
}

/** Changes of tempo, as many as have room, each whole. */
export function tempoTags(song: Pick<SongView, "tempo" | "factor">, view: View, width: number): Tag[] {
  if (song.tempo.length < 2) return [];
  const tags: Tag[] = [];
  for (const stretch of song.tempo) {
    if (stretch.end_s <= view.from || stretch.start_s >= view.to) continue;
    const x = Math.max(0, xOf(view, stretch.start_s, width));
    const last = tags[tags.length - 1];
    if (x + TAG_PX > width || (last && x < last.x + TAG_PX)) continue;
    tags.push({ at: Math.max(stretch.start_s, 0), x, bpm: stretch.bpm * song.factor });
  }
  return tags;
}
