import { useState } from "react";
import type { MarkView, SongView } from "../../api/client";
import { useCommandKeys } from "../../parts/keys";
import { markColour } from "../../parts/marks";
import type { SongActions } from "./actions";
import { type View, xOf } from "./view";
import styles from "./MarkLane.module.css";
import { follow } from "../../parts/drag";
import { classes } from "../../parts/classes";

const cx = classes(styles);

/** Marks of the sets that are shown: drag to move, Delete to take off; ghosts where tidying would put them. */
export function MarkLane({
  song,
  view,
  width,
  chosen,
  choose,
  ghosts,
  actions,
}: {
  song: SongView;
  view: View;
  width: number;
  chosen: number | null;
  choose: (id: number | null) => void;
  ghosts: ReadonlyMap<number, number>;
  actions: SongActions;
}) {
  const [drag, setDrag] = useState<{ id: number; at: number } | null>(null);
  const scale = width / (view.to - view.from);
  const takeOff = () => {
    if (chosen === null) return false;
    void actions.marks({ action: "delete", ids: [chosen] });
    choose(null);
    return true;
  };
  useCommandKeys("Marks", [{ keys: "Delete", words: "Take off the chosen mark", run: takeOff }]);
  const grab = (event: React.PointerEvent, mark: MarkView) => {
    event.stopPropagation();
    choose(mark.id);
    const place = (dx: number) => Math.min(song.seconds, Math.max(0, mark.at_s + dx / scale));
    follow(
      event,
      ({ dx }) => setDrag({ id: mark.id, at: place(dx) }),
      (last) => {
        if (!last) return setDrag(null);
        void actions.mark(mark.id, { song_s: place(last.dx) }).then(() => setDrag(null));
      },
    );
  };
  const shown = new Set(song.mark_sets.filter((s) => s.shown).map((s) => s.id));
  const inView = song.marks.filter((m) => shown.has(m.set_id) && m.at_s >= view.from && m.at_s <= view.to);
  const room = width / Math.max(1, inView.length) > 60;
  return (
    <>
      {inView.map((m) => {
        const at = drag?.id === m.id ? drag.at : m.at_s;
        const ghost = ghosts.get(m.id);
        return (
          <span key={m.id} style={{ color: markColour(song, m) }}>
            {ghost !== undefined && (
              <>
                <i
                  className={cx("ghost-way")}
                  style={{
                    left: xOf(view, Math.min(at, ghost), width),
                    width: Math.max(1, Math.abs(ghost - at) * scale),
                  }}
                />
                <i className={cx("ghost")} data-testid="ghost" style={{ left: xOf(view, ghost, width) }}>
                  ◇
                </i>
              </>
            )}
            <button
              type="button"
              className={cx(m.id === chosen ? "mark on" : "mark")}
              data-testid="mark"
              aria-label={`Mark ${m.name} at ${m.at_s.toFixed(3)} s`}
              title={m.name || undefined}
              style={{ left: xOf(view, at, width) }}
              onPointerDown={(e) => grab(e, m)}
            >
              ◆
            </button>
            {m.name && room && (
              <i className={cx("mark-name")} style={{ left: xOf(view, at, width) + 9 }}>
                {m.name}
              </i>
            )}
          </span>
        );
      })}
    </>
  );
}
