import { useQuery } from "@tanstack/react-query";
import { useCallback } from "react";
import { api, data, type PassView } from "../../api/client";
import { useProject } from "../../api/project";
import { Canvas } from "../../parts/Canvas";
import { colour } from "../../theme";
import view from "./lineup.module.css";
import own from "./MatchStrip.module.css";
import { classes } from "../../parts/classes";

const cx = classes(view, own);

/** Match of a pass at every place in the song: shows at once that a take fits three choruses. */
export function MatchStrip({ pass }: { pass: PassView }) {
  const { id, state } = useProject();
  const curve = useQuery({
    queryKey: ["match", id, pass.id, pass.take_start_s, pass.take_end_s],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () =>
      data(
        api.GET("/api/v1/projects/{project_id}/lineup/passes/{pass_id}/match", {
          params: { path: { project_id: id, pass_id: pass.id } },
        }),
      ),
  }).data;
  const seconds = state.song?.seconds ?? 1;
  const paint = useCallback(
    (paper: CanvasRenderingContext2D, w: number, h: number) => {
      paper.strokeStyle = colour.coral;
      paper.setLineDash([4, 3]);
      paper.beginPath();
      paper.moveTo(0, h - 0.7 * (h - 26));
      paper.lineTo(w, h - 0.7 * (h - 26));
      paper.stroke();
      paper.setLineDash([]);
      paper.fillStyle = colour.rule;
      for (const s of state.song?.sections ?? []) paper.fillRect(Math.round((s.start_s / seconds) * w), 0, 1, h);
      if (!curve) return;
      paper.strokeStyle = colour.ink;
      paper.lineWidth = 1.2;
      paper.beginPath();
      curve.forEach((v, i) => paper.lineTo((i / curve.length) * w, h - 2 - v * (h - 28)));
      paper.stroke();
    },
    [curve, seconds, state.song],
  );
  return (
    <div>
      <div className={cx("window-head")}>
        <b>Where it fits in the song</b>
        <span className="soft">places above 0.70 of the best count as equal, unless the take tells them apart</span>
      </div>
      <div className={cx("match")}>
        <Canvas paint={paint} height={88} label="Match of this pass over the song" />
        {state.song?.sections.map((s) => (
          <span
            key={s.id}
            className={cx("match-section")}
            style={{ left: `${(100 * s.start_s) / seconds}%`, width: `${(100 * (s.end_s - s.start_s)) / seconds}%` }}
          >
            {s.name}
          </span>
        ))}
        {pass.places.map((p, i) => (
          <span
            key={p.song_start_s}
            className={cx("match-place")}
            style={{ left: `${(100 * Math.max(0, p.song_start_s)) / seconds}%` }}
          >
            {i + 1}
          </span>
        ))}
      </div>
    </div>
  );
}
