import { useMemo } from "react";
import { itemsOn, shotsOf } from "../../../api/lanes";
import { useEdit, useProject } from "../../../api/project";
import { classes } from "../../../parts/classes";
import { barBeat } from "../../../parts/format";
import { clock } from "../../../player/clock";
import { useFrame } from "../../../player/useFrame";
import { hueOf } from "../../../theme";
import styles from "./Colour.module.css";
import { seenInTurn } from "./turns";
import { isFar, type Jump, useJumpLimit } from "./useColour";

const cx = classes(styles);
/** Height of the tallest bar, and how much of a jump that is. */
const TALL = 40;
const MOST = 40;

/** How much each cut jumps, along the film: bars over the shots; the worst cut is a key away. */
export function Jumps({ jumps }: { jumps: readonly Jump[] }) {
  const { state, rate } = useProject();
  const edit = useEdit();
  const frame = useFrame(rate);
  const seen = useMemo(() => (edit ? seenInTurn(shotsOf(edit), itemsOn(edit, "over")) : []), [edit]);
  const song = state.song;
  const limit = useJumpLimit();
  const length = Math.max(1, state.length);
  const share = (at: number) => `${(100 * at) / length}%`;
  const here = jumps.findLast((j) => j.frame <= frame);
  return (
    <div className={cx("jumps")} data-testid="jumps">
      <div className={cx("bars")}>
        {jumps.map((j) => (
          <button
            key={j.frame}
            type="button"
            className={cx(isFar(j, limit) ? "jump far" : j.meant === null ? "jump" : "jump meant")}
            style={{ left: share(j.frame), height: `${Math.max(3, (TALL * Math.min(j.jump, MOST)) / MOST)}px` }}
            aria-label={`cut at ${song ? barBeat(song, j.frame / rate) : j.frame}: jumps ${j.jump.toFixed(1)}${isFar(j, limit) ? ", far" : j.meant === null ? "" : ", meant"}`}
            aria-current={j === here}
            title={`${song ? barBeat(song, j.frame / rate) : ""} · jumps ${j.jump.toFixed(1)}: lightness ${j.lightness.toFixed(1)}, colour ${j.colour.toFixed(1)}, contrast ${j.contrast.toFixed(1)}`}
            onClick={() => clock.seek((j.frame + 0.001) / rate)}
          />
        ))}
      </div>
      <div className={cx("shots")} aria-hidden="true">
        {seen.map((s) => {
          const angle = state.angles.find((a) => a.id === s.item.source.angle);
          const on = frame >= s.start && frame < s.end;
          return (
            <i
              key={s.start}
              className={on ? cx("on") : undefined}
              style={{
                left: share(s.start),
                width: share(s.end - s.start),
                background: angle ? hueOf(angle.hue) : undefined,
              }}
            >
              {angle?.number}
            </i>
          );
        })}
      </div>
    </div>
  );
}
