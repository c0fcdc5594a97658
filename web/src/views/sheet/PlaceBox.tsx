import { useState } from "react";
import { api, data, type MediaView } from "../../api/client";
import { within } from "../../api/facts";
import { useProject } from "../../api/project";
import { puts, whole } from "../../parts/broll/framing";
import { type Drag, follow } from "../../parts/drag";
import { classes } from "../../parts/classes";
import styles from "./Viewer.module.css";

const cx = classes(styles);

interface Box {
  centre: [number, number];
  scale: number;
}

/** A small picture over the film, placed and sized on the programme: dragged by its middle, sized by its corner. */
export function PlaceBox({ file }: { file: MediaView }) {
  const { id, state, act } = useProject();
  const [held, setHeld] = useState<Box | null>(null);
  const shares = whole(file, [state.width, state.height]);
  const most = Math.max(...shares);
  const now: Box = held ?? {
    centre: [0.5 + file.placed.x, 0.5 + file.placed.y],
    scale: file.placed.scale * most,
  };
  const size = shares.map((s) => (s * now.scale) / most) as [number, number];
  const keep = async ({ centre, scale }: Box) => {
    const [w, h] = shares.map((s) => (s * scale) / most) as [number, number];
    const params = { path: { project_id: id, media_id: file.id } };
    const body = {
      ...file.fit,
      turn: file.fit.turn as 0,
      how: "own" as const,
      to: null,
      scale: Math.round(1000 * scale) / 1000,
      x: puts(centre[0], w),
      y: puts(centre[1], h),
    };
    await act(() => data(api.PUT("/api/v1/projects/{project_id}/media/{media_id}/fit", { params, body })));
    setHeld(null);
  };
  const drag = (event: React.PointerEvent<HTMLElement>, sizing: boolean) => {
    event.stopPropagation();
    const target = event.currentTarget;
    const frame = (target.closest(`.${cx("framed")}`) as HTMLElement).getBoundingClientRect();
    const begun = now;
    let held = begun;
    const { min, max } = within("scale");
    const move = ({ dx, dy }: Drag) => {
      const by = [dx / frame.width, dy / frame.height] as const;
      const wide = shares[0] / most;
      held = sizing
        ? { ...begun, scale: Math.min(max, Math.max(min, begun.scale + (2 * by[0]) / wide)) }
        : { ...begun, centre: [begun.centre[0] + by[0], begun.centre[1] + by[1]] };
      setHeld(held);
    };
    follow(event, move, (last) => {
      if (last) void keep(held);
      else setHeld(null);
    });
  };
  const percent = (share: number) => `${100 * share}%`;
  return (
    <div
      className={cx("place-box")}
      style={{
        left: percent(now.centre[0] - size[0] / 2),
        top: percent(now.centre[1] - size[1] / 2),
        width: percent(size[0]),
        height: percent(size[1]),
      }}
      onPointerDown={(e) => drag(e, false)}
      title={`${file.name}: drag it to its place`}
      data-testid="place-box"
    >
      <span
        className={cx("place-corner")}
        onPointerDown={(e) => drag(e, true)}
        title="Drag it larger or smaller"
        data-testid="place-corner"
      />
    </div>
  );
}
