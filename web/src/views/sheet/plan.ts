/** Counts of what a plan would make. Pure. */

import { type Lanes, shotsOf } from "../../api/lanes";
import type { ItemView, ProjectState, Schemas } from "../../api/client";
import { beatsBetween } from "../../parts/beats";

export type Planned = Schemas["PlannedView"];

export interface Part {
  shot: ItemView;
  /** Shares of the passage. */
  left: number;
  width: number;
}

/** The parts of shots that lie in a passage. */
export function partsIn(shots: readonly ItemView[], { first, end }: { first: number; end: number }): Part[] {
  const long = Math.max(1, end - first);
  return shots
    .filter((s) => s.end > first && s.start < end)
    .map((shot) => {
      const [a, b] = [Math.max(first, shot.start), Math.min(end, shot.end)];
      return { shot, left: (a - first) / long, width: (b - a) / long };
    });
}

/** So many shots of so many beats, from so much B-roll; what stays and what is left empty. */
export function arithmetic(
  edit: Lanes,
  state: Pick<ProjectState, "song" | "media" | "selects" | "length">,
  rate: number,
  onBars: number,
  cuts: number,
): string {
  const shots = shotsOf(edit);
  const beats = state.song ? beatsBetween(state.song, 0, state.length / rate) / Math.max(1, shots.length) : 0;
  const used = new Set(shots.filter((s) => s.source.kind === "clip").map((s) => `${s.source.media} ${s.source.in_s}`));
  const cutFrom = new Set(state.selects.map((s) => s.media));
  const stock = state.selects.length + state.media.filter((m) => m.kind === "broll" && !cutFrom.has(m.id)).length;
  const held = shots.filter((s) => s.held).length;
  const empty = shots.filter((s) => s.source.kind === "empty").length;
  return [
    `${shots.length} ${shots.length === 1 ? "shot" : "shots"}, ${beats.toFixed(1)} beats each`,
    `${used.size} of ${stock} selects and clips`,
    cuts ? `${Math.round((100 * onBars) / cuts)} % on a bar` : "",
    held ? `${held} held, they stay` : "",
    empty ? `${empty} ${empty === 1 ? "slot stays" : "slots stay"} empty: nothing is long enough` : "",
  ]
    .filter(Boolean)
    .join(" · ");
}

/** Storage key of the rules of a project's plan that are switched off. */
export const rulesOff = (project: string): string => `zembi-rules-off-${project}`;
