import type { EditView, ProjectState, ShotView, Unit } from "../../api/client";
import { sectionAt } from "./keys";

type Falls = Pick<ProjectState, "unit" | "lead" | "song">;

/** Frames before the grid point at which cuts fall at a working time: the section's own, or the project's. */
export function leadAt(state: Pick<Falls, "lead" | "song">, at: number): number {
  return state.song?.sections[sectionAt(state.song, at)]?.lead ?? state.lead;
}

/** Slack that keeps a paused playhead, which stands on a frame's beginning, on that frame. */
const ON_FRAME = 1e-4;

/** Where something asked for now falls: on the grid with the lead while playing, at the playhead's frame when paused. */
export function fallsNow(state: Falls, playing: boolean, at: number) {
  return playing
    ? { working_s: at, unit: state.unit as Unit, lead: leadAt(state, at) }
    : { working_s: at + ON_FRAME, unit: "free" as Unit, lead: 0 };
}

/** Where a clip is laid: on the grid with the lead, from the playhead, playing or not. */
export function laidNow(state: Falls, playing: boolean, at: number) {
  return { working_s: playing ? at : at + ON_FRAME, unit: state.unit as Unit, lead: leadAt(state, at) };
}

/** The shot under the playhead. */
export function shotAt(edit: EditView | undefined, frame: number): ShotView | undefined {
  return edit?.shots.find((s) => frame >= s.start && frame < s.end);
}
