import { useState } from "react";
import type { ProjectState, SongView } from "../../api/client";
import type { SongActions } from "./actions";
import { nearestIndex, type View, xOf } from "./view";
import styles from "./LeftOut.module.css";
import { follow } from "../../parts/drag";
import { classes } from "../../parts/classes";
import { TextButton } from "../../parts/TextButton";

const cx = classes(styles);

/** Passages that are left out, hatched over the score: drag an edge to another beat, or bring the passage back. */
export function LeftOut({
  song,
  passages,
  view,
  width,
  actions,
}: {
  song: SongView;
  passages: ProjectState["left_out"];
  view: View;
  width: number;
  actions: SongActions;
}) {
  const [drag, setDrag] = useState<{ id: number; start: number; end: number } | null>(null);
  const scale = width / (view.to - view.from);
  const beat = (at: number) => song.beats[nearestIndex(song.beats, at)] ?? at;
  const grab = (
    event: React.PointerEvent,
    p: { id: number; start_s: number; end_s: number },
    edge: "start" | "end",
  ) => {
    event.stopPropagation();
    const moved = (dx: number) => {
      const at = beat((edge === "start" ? p.start_s : p.end_s) + dx / scale);
      return { id: p.id, start: edge === "start" ? at : p.start_s, end: edge === "end" ? at : p.end_s };
    };
    follow(
      event,
      ({ dx }) => setDrag(moved(dx)),
      (last) => {
        if (!last) return setDrag(null);
        const to = moved(last.dx);
        void actions.movePassage(p.id, to.start, to.end).then(() => setDrag(null));
      },
    );
  };
  return (
    <>
      {passages
        .map((p) => (drag?.id === p.id ? { ...p, start_s: drag.start, end_s: drag.end } : p))
        .filter((p) => p.end_s > view.from && p.start_s < view.to)
        .map((p) => {
          const left = Math.max(0, xOf(view, p.start_s, width));
          const right = Math.min(width, xOf(view, p.end_s, width));
          return (
            <div
              key={p.id}
              className={cx("left-out")}
              style={{ left, width: Math.max(2, right - left) }}
              data-testid="left-out"
            >
              <i
                className={cx("left-edge start")}
                onPointerDown={(e) => grab(e, p, "start")}
                title="Drag to another beat"
              />
              <i
                className={cx("left-edge end")}
                onPointerDown={(e) => grab(e, p, "end")}
                title="Drag to another beat"
              />
              {right - left > 90 && (
                <span>
                  left out
                  <TextButton onClick={() => actions.bringBack(p.id)} data-testid="bring-back">
                    Bring back
                  </TextButton>
                </span>
              )}
            </div>
          );
        })}
    </>
  );
}
