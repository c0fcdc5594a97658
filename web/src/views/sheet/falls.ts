/** Request to the server, which alone knows on which frame something falls: a time, and on which points of the grid. */

import { shotsOf } from "../../api/lanes";
import type { EditView, ItemView, ProjectState, Unit } from "../../api/client";

type Falls = Pick<ProjectState, "unit">;

/** Slack that keeps a paused playhead, which stands on a frame's beginning, on that frame. */
const ON_FRAME = 1e-4;

/** The place of something asked for now: on the grid while playing, at the playhead's frame when paused. */
export function fallsNow(state: Falls, playing: boolean, at: number) {
  return playing ? { working_s: at, unit: state.unit as Unit } : { working_s: at + ON_FRAME, unit: "free" as Unit };
}

/** The place at which a clip is laid: on the grid, from the playhead, playing or not. */
export function laidNow(state: Falls, playing: boolean, at: number) {
  return { working_s: playing ? at : at + ON_FRAME, unit: state.unit as Unit };
}

/** The shot under the playhead. */
export function shotAt(edit: EditView | undefined, frame: number): ItemView | undefined {
  return shotsOf(edit).find((s) => frame >= s.start && frame < s.end);
}
