import { useCallback, useMemo } from "react";
import type { PassView } from "../../api/client";
import { useProject } from "../../api/project";
import { Canvas } from "../../parts/Canvas";
import { ClipFrame } from "../../parts/ClipFrame";
import { signed } from "../../parts/format";
import { colour, hueOf } from "../../theme";
import { clockWords } from "./lineup";
import { half, useSamples } from "./samples";
import view from "./lineup.module.css";
import own from "./Windows.module.css";
import { classes } from "../../parts/classes";

const cx = classes(view, own);

const WINDOW_S = 1.6;

/** Song over take at the head, the middle and the tail of a pass, so that drift shows at a glance. */
export function Windows({ pass, media, hue, tall }: { tall: number; pass: PassView; media: string; hue: number }) {
  const length = pass.song_end_s - pass.song_start_s;
  const spots = [
    ["Head", 0.06],
    ["Middle", 0.5],
    ["Tail", 0.94],
  ] as const;
  return (
    <div className={cx("windows")}>
      {spots.map(([name, share]) => (
        <WindowPair
          key={name}
          tall={tall}
          name={name}
          pass={pass}
          media={media}
          at={pass.song_start_s + share * length}
          hue={hue}
        />
      ))}
    </div>
  );
}

function WindowPair({
  name,
  pass,
  media,
  at,
  hue,
  tall,
}: {
  tall: number;
  name: string;
  pass: PassView;
  media: string;
  at: number;
  hue: number;
}) {
  const { state, rate } = useProject();
  const from = Math.max(0, at - WINDOW_S / 2);
  const takeFrom = pass.take_start_s + (from - pass.song_start_s) / pass.rate;
  const song = useSamples(state.song?.media, from, WINDOW_S);
  const heard = state.media.find((m) => m.id === media)?.has_sound;
  const take = useSamples(heard ? media : undefined, takeFrom, WINDOW_S / pass.rate);
  const residual = useMemo(
    () => nearest(pass.residuals, takeFrom + WINDOW_S / 2) + pass.moved_ms / 1000,
    [pass, takeFrom],
  );
  const paint = useCallback(
    (paper: CanvasRenderingContext2D, w: number, h: number) => {
      for (const beat of state.song?.beats ?? []) {
        const px = ((beat - from) / WINDOW_S) * w;
        if (px < 0 || px > w) continue;
        paper.fillStyle = colour.rule;
        paper.fillRect(Math.round(px), 0, 1, h);
      }
      half(paper, w, h, song, colour.ink, -1);
      half(paper, w, h, take, hueOf(hue), 1);
      paper.fillStyle = colour.soft;
      paper.fillRect(0, h / 2, w, 1);
    },
    [song, take, state.song, from, hue],
  );
  return (
    <div className={cx("window-pair")}>
      <div className={cx("window-head")}>
        <b>{name}</b>
        <span className="mono" title="How far this part lies off the line, with nudges">
          {signed(residual * 1000, 2)} ms · {signed(residual * rate, 1)} f
        </span>
      </div>
      <div className={cx("window-box")}>
        <Canvas paint={paint} height={tall} label={`${name}: song above, take below`} />
        {!heard && (
          <div className={cx("window-picture")}>
            <ClipFrame media={media} at={takeFrom + WINDOW_S / 2 / pass.rate} />
          </div>
        )}
        <span className={cx("window-name top")}>song</span>
        <span className={cx("window-name bottom")}>take</span>
      </div>
    </div>
  );
}

function nearest(residuals: readonly number[][], at: number): number {
  const close = residuals.filter(([t]) => Math.abs((t ?? 0) - at) < 3);
  return close.length ? close.reduce((sum, [, r]) => sum + (r ?? 0), 0) / close.length : 0;
}

/** Offset of each measured window from the pass's line, along the pass. */
export function DriftStrip({ pass, hue }: { pass: PassView; hue: number }) {
  const { rate } = useProject();
  const reach = Math.max(1.2 * Math.max(0, ...pass.residuals.map(([, r]) => Math.abs(r ?? 0))), 0.002);
  const paint = useCallback(
    (paper: CanvasRenderingContext2D, w: number, h: number) => {
      paper.fillStyle = colour.rule;
      paper.fillRect(0, h / 2, w, 1);
      paper.fillStyle = hueOf(hue);
      for (const [t, r] of pass.residuals) {
        const x = (((t ?? 0) - pass.take_start_s) / Math.max(0.1, pass.take_end_s - pass.take_start_s)) * (w - 6) + 3;
        const y = h / 2 - ((r ?? 0) / reach) * (h / 2 - 4);
        paper.beginPath();
        paper.arc(x, y, 2, 0, 2 * Math.PI);
        paper.fill();
      }
    },
    [pass, hue, reach],
  );
  return (
    <div className={cx("drift")}>
      <div className={cx("window-head")}>
        <span>
          <b>Along the pass</b> <span className="soft">{clockWords(pass, rate)}</span>
        </span>
        <span className="mono soft">± {(reach * 1000).toFixed(1)} ms</span>
      </div>
      <div className={cx("window-box")}>
        <Canvas paint={paint} height={34} label="How far each part lies off the line" />
      </div>
    </div>
  );
}
