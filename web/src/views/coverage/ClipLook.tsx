import { Button } from "antd";
import { useMemo, useState } from "react";
import type { MediaView } from "../../api/client";
import { useEdit, useProject } from "../../api/project";
import { itemsOf, NO_SIFT, sifted } from "../../parts/broll/items";
import { lookAt, useLooking } from "../../parts/broll/looking";
import { ClipStrip } from "../../parts/broll/ClipStrip";
import { ClipRange } from "../../parts/broll/ClipRange";
import { classes } from "../../parts/classes";
import styles from "./ClipLook.module.css";
import { ClipSide } from "./ClipSide";
import { FilmCuts } from "./FilmCuts";
import { StillLook } from "./StillLook";
import { type Look, useLook } from "../../parts/broll/useLook";

const cx = classes(styles);

interface Part {
  clip: MediaView;
  look: Look;
}

/** A clip looked at large: played, its selects kept, rated, tagged, all without leaving the keyboard. */
export function ClipLook({ clip }: { clip: MediaView }) {
  const { state } = useProject();
  const chosen = useLooking((l) => l.select);
  const look = useLook({ clip, chosen, open: lookAt, next: useNext(clip), leave: () => lookAt(null) });
  const [cuts, setCuts] = useState(false);
  const { player, range } = look;
  return (
    <section
      className={cx("look")}
      data-testid="clip-look"
      data-in={range[0].toFixed(4)}
      data-out={range[1].toFixed(4)}
    >
      <div className={cx("main")}>
        <Title clip={clip} look={look} />
        {clip.still ? (
          <StillLook clip={clip} key={clip.id} />
        ) : (
          <canvas
            ref={player.canvas}
            className={cx("canvas")}
            width={960}
            height={Math.round((960 * state.height) / state.width / 2) * 2}
            role="img"
            aria-label={`Frame of ${clip.name}`}
            data-testid="look-picture"
            onClick={() => player.play(player.speed ? 0 : 1)}
          />
        )}
        {!clip.still && <ClipStrip clip={clip} look={look} stills={14} />}
        <div className={cx("under")}>
          {!clip.still && <ClipRange look={look} />}
          <span className="grow" />
          <span className={cx("keys")}>
            {clip.still ? (clip.fit.to ? "space shows the move" : "") : "space plays · J K L"} · 0 to 5 rates · ▴▾ other
            clips · Esc back
          </span>
        </div>
      </div>
      <ClipSide clip={clip} look={look} cuts={cuts} toggle={() => setCuts(!cuts)} />
      {cuts && <FilmCuts clip={clip} go={player.go} done={() => setCuts(false)} />}
    </section>
  );
}

function Title({ clip, look: { select, player, next } }: Part) {
  return (
    <div className={cx("title")}>
      <Button size="small" onClick={() => lookAt(null)}>
        ◂ All B-roll
      </Button>
      <b>{select ? `${select.name} · a select of ${clip.name}` : clip.name}</b>
      <span className="grow" />
      <span className="mono">
        {clip.still ? "a still, as long as it is wanted" : `${player.at.toFixed(2)} s of ${clip.seconds.toFixed(2)} s`}
        {player.speed !== 0 && player.speed !== 1 ? ` · ${player.speed} times` : ""}
      </span>
      <Button size="small" onClick={() => next(-1)}>
        ▴ previous
      </Button>
      <Button size="small" onClick={() => next(1)}>
        ▾ next clip
      </Button>
    </div>
  );
}

/** Goes to the clip so many on, round at the ends. */
function useNext(clip: MediaView): (by: number) => void {
  const { state } = useProject();
  const edit = useEdit();
  const order = useMemo(
    () => sifted(itemsOf(state.media, state.selects, edit, true), NO_SIFT).filter((i) => !i.select),
    [state.media, state.selects, edit],
  );
  return (by) => {
    const at = order.findIndex((i) => i.clip.id === clip.id);
    const to = order[(at + by + order.length) % order.length];
    if (to) lookAt(to.clip.id);
  };
}
