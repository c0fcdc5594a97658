import { useCallback } from "react";
import type { MediaView } from "../../api/client";
import { Canvas } from "../Canvas";
import { classes } from "../classes";
import { peakOf, usePeaks } from "../peaks";
import { Still } from "../Still";
import styles from "./ClipStrip.module.css";
import type { Look } from "./useLook";

const cx = classes(styles);

/** Height of the waveform, in pixels. */
const WAVE = 30;

interface Props {
  clip: MediaView;
  look: Look;
  /** Number of stills side by side. */
  stills: number;
}

/** The clip's length as stills and sound: its selects, the range that is laid, its moment, and the playhead. */
export function ClipStrip({ clip, look: { player, range, selects, select, moment, places }, stills }: Props) {
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
        {Array.from({ length: stills }, (_, k) => (k + 0.5) / stills).map((part) => (
          <Still key={part} media={clip.id} at={part * clip.seconds} width={62} />
        ))}
      </div>
      {clip.has_sound && <Wave clip={clip} />}
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
      {places.movements.map((at) => (
        <span key={`m${at}`} className={cx("moves")} style={{ left: share(at) }} title="Something begins to move" />
      ))}
      {places.strokes.map((at) => (
        <span key={`s${at}`} className={cx("stroke")} style={{ left: share(at) }} title="A stroke in its sound" />
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

/** The clip's own sound, as a waveform. */
function Wave({ clip }: { clip: MediaView }) {
  const peaks = usePeaks(clip.id);
  const paint = useCallback(
    (paper: CanvasRenderingContext2D, width: number) => {
      if (!peaks) return;
      const step = clip.seconds / width;
      paper.fillStyle = "#8F8871";
      for (let x = 0; x < width; x++) {
        const [low, high] = peakOf(peaks, x * step, (x + 1) * step);
        const tall = Math.max(1, ((high - low) / 2) * WAVE);
        paper.fillRect(x, (WAVE - tall) / 2, 1, tall);
      }
    },
    [peaks, clip.seconds],
  );
  return (
    <div className={cx("wave")} data-testid="clip-wave">
      <Canvas paint={paint} height={WAVE} />
    </div>
  );
}
