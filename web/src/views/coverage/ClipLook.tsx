import { Button } from "antd";
import { useState } from "react";
import type { MediaView } from "../../api/client";
import { useProject } from "../../api/project";
import { lookAt } from "../../parts/broll/looking";
import { classes } from "../../parts/classes";
import { Still } from "../../parts/Still";
import styles from "./ClipLook.module.css";
import { ClipSide } from "./ClipSide";
import { FilmCuts } from "./FilmCuts";
import { StillLook } from "./StillLook";
import { type Look, useLook } from "./useLook";

const cx = classes(styles);
const STILLS = 14;

interface Part {
  clip: MediaView;
  look: Look;
}

/** A clip looked at large: played, its selects kept, rated, tagged, all without leaving the keyboard. */
export function ClipLook({ clip }: { clip: MediaView }) {
  const { state } = useProject();
  const look = useLook(clip);
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
        {!clip.still && <Strip clip={clip} look={look} />}
        <div className={cx("under")}>
          {!clip.still && <Range look={look} />}
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

/** The clip's length as stills: its selects, the range that would be kept, its moment, and the playhead. */
function Strip({ clip, look: { player, range, selects, select, moment } }: Part) {
  const share = (seconds: number) => `${(100 * Math.min(seconds, clip.seconds)) / Math.max(1e-6, clip.seconds)}%`;
  const scrub = (event: React.PointerEvent) => {
    if (event.type === "pointermove" && !event.buttons) return;
    const box = event.currentTarget.getBoundingClientRect();
    player.play(0);
    player.go(((event.clientX - box.left) / box.width) * clip.seconds);
  };
  return (
    <div className={cx("strip")} onPointerDown={scrub} onPointerMove={scrub} data-testid="look-strip">
      <div className={cx("stills")}>
        {Array.from({ length: STILLS }, (_, k) => (k + 0.5) / STILLS).map((part) => (
          <Still key={part} media={clip.id} at={part * clip.seconds} width={62} />
        ))}
      </div>
      <span className={cx("outside")} style={{ left: 0, width: share(range[0]) }} />
      <span className={cx("outside")} style={{ left: share(range[1]), right: 0 }} />
      {selects.map((s) => (
        <span
          key={s.id}
          className={cx(s.id === select?.id ? "kept on" : "kept")}
          style={{ left: share(s.in_s), width: share(s.out_s - s.in_s) }}
          title={s.name}
        />
      ))}
      {moment !== null && (
        <span
          className={cx("moment")}
          style={{ left: share(moment) }}
          title={`Its moment, at ${moment.toFixed(2)} s`}
        />
      )}
      <span className={cx("head")} style={{ left: share(player.at) }} />
    </div>
  );
}

function Range({ look: { range, moment, select, setIn, setOut, mark, keep } }: Pick<Part, "look">) {
  return (
    <>
      <span className="mono">
        {range[0].toFixed(2)} to {range[1].toFixed(2)}, {(range[1] - range[0]).toFixed(2)} s
      </span>
      <Button size="small" onClick={setIn}>
        In I
      </Button>
      <Button size="small" onClick={setOut}>
        Out O
      </Button>
      <Button size="small" onClick={mark} title="A moment that can be laid on a beat" data-testid="mark-moment">
        {moment === null ? "Its moment M" : `Moment ${moment.toFixed(2)} M`}
      </Button>
      <Button size="small" type="primary" onClick={() => void keep()} data-testid="keep-select">
        {select ? "Change the select ⏎" : "Keep a select ⏎"}
      </Button>
    </>
  );
}
