import { useState } from "react";
import type { ItemView } from "../../api/client";
import { shotsOf } from "../../api/lanes";
import { useEdit, useProject } from "../../api/project";
import { follow } from "../../parts/drag";
import { classes } from "../../parts/classes";
import { barBeat, toSong, toWorking } from "../../parts/format";
import styles from "./CutLane.module.css";
import { type View, xOf } from "./view";

const cx = classes(styles);

/** Cuts nearer to each other than this, in pixels, are shown and not dragged. */
const LEAST_ROOM = 5;

/** Cuts of the edit under the waveform; each is dragged to another frame. */
export function CutLane({ view, width }: { view: View; width: number }) {
  const { state, rate, operate } = useProject();
  const edit = useEdit();
  const [drag, setDrag] = useState<{ id: number; frame: number } | null>(null);
  const song = state.song;
  if (!song || !edit) return null;
  const timeOf = (frame: number) => toSong(state.kept, frame / rate);
  const scale = width / (view.to - view.from);
  const cuts = shotsOf(edit)
    .filter((s) => s.start > 0)
    .map((shot) => ({ shot, at: timeOf(shot.start) }))
    .filter(({ at }) => at >= view.from && at <= view.to);
  const close = cuts.length > 1 && width / cuts.length < LEAST_ROOM;
  const grab = (event: React.PointerEvent, shot: ItemView, at: number) => {
    event.stopPropagation();
    const frameOf = (dx: number) => Math.round(toWorking(state.kept, at + dx / scale) * rate);
    follow(
      event,
      ({ dx }) => setDrag({ id: shot.id, frame: frameOf(dx) }),
      (last) => {
        if (!last) return setDrag(null);
        void operate({ op: "move", item: shot.id, to: frameOf(last.dx) }).then(() => setDrag(null));
      },
    );
  };
  return (
    <div className={cx("cuts")} data-testid="song-cuts">
      {cuts.map(({ shot, at }) => {
        const held = drag?.id === shot.id ? drag.frame : null;
        const angle = state.angles.find((a) => a.id === shot.source.angle);
        const name = angle?.name ?? state.media.find((m) => m.id === shot.source.media)?.name ?? shot.source.kind;
        return (
          <i
            key={shot.id}
            className={cx(held === null ? "cut" : "cut on")}
            style={{
              left: xOf(view, held === null ? at : timeOf(held), width),
              pointerEvents: close ? "none" : "auto",
            }}
            onPointerDown={(e) => grab(e, shot, at)}
            title={`Cut to ${name}, at ${barBeat(song, at)}. Drag it.`}
            data-testid="song-cut"
            data-frame={shot.start}
          >
            {held !== null && (
              <span>
                {held > shot.start ? "+" : "−"}
                {Math.abs(held - shot.start)} f
              </span>
            )}
          </i>
        );
      })}
    </div>
  );
}
