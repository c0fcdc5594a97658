import { Button, Progress } from "antd";
import { useCallback, useEffect, useState } from "react";
import { api, data } from "../../api/client";
import { useJobs, wasStopped } from "../../api/jobs";
import { useAddresses, useProject } from "../../api/project";
import { Canvas } from "../../parts/Canvas";
import { minutes } from "../../parts/format";
import { peakOf, usePeaks } from "../../parts/peaks";
import { clock, useClock } from "../../player/clock";
import { colour } from "../../theme";
import styles from "./Listening.module.css";
import { classes } from "../../parts/classes";

const cx = classes(styles);

/** A song that is being listened to: how far that is, and already its waveform, which can be played. */
export function Listening({ media }: { media: string }) {
  const { id, state, act } = useProject();
  const { jobs } = useJobs();
  const file = state.media.find((m) => m.id === media);
  const works = jobs.filter((j) => j.kind === "prepare");
  const job = works.find((j) => j.state === "running");
  const stopped = wasStopped(jobs);
  const waits = !works.length || works.some((j) => j.state === "waiting");
  // A quarter of the work is reading the song and drawing it; at half of it there is a copy to play.
  const done = file?.prepared ? 1 : (job?.progress ?? (waits || stopped ? 0 : 1));
  const peaks = usePeaks(done >= 0.25 ? media : undefined);
  const heard = done >= 0.5;
  const seconds = file?.seconds ?? 0;
  const playing = useClock((c) => c.playing);
  const ready = useClock((c) => c.ready);
  const at = usePosition();
  const sound = useAddresses()(media, "song.flac");
  useEffect(() => {
    if (heard && seconds) void clock.load(sound, seconds);
  }, [heard, seconds, sound]);
  const again = () => {
    const params = { path: { project_id: id, media_id: media } };
    return act(() => data(api.POST("/api/v1/projects/{project_id}/media/{media_id}/preparations", { params })));
  };
  const paint = useCallback(
    (paper: CanvasRenderingContext2D, width: number, height: number) => {
      if (!peaks || !seconds) return;
      for (let x = 0; x < width; x++) {
        const [low, high] = peakOf(peaks, (x / width) * seconds, ((x + 1) / width) * seconds);
        paper.fillStyle = colour.wave;
        paper.fillRect(x, (height / 2) * (1 - high), 1, Math.max(1, (height / 2) * (high - low)));
      }
      paper.fillStyle = colour.coral;
      paper.fillRect((width * at) / seconds, 0, 2, height);
    },
    [peaks, seconds, at],
  );
  return (
    <section className={cx("listening")} data-testid="listening">
      {stopped ? (
        <p className="buttons">
          <Button type="primary" onClick={() => void again()} data-testid="listen-again">
            Listen again
          </Button>
        </p>
      ) : (
        <>
          <Progress
            aria-label="Listening to the song"
            percent={Math.round(100 * (job?.progress ?? (waits ? 0 : 1)))}
            size="small"
          />
          <p className="soft">{job?.message || (waits ? "Waiting for a free processor" : "Laying out the grid")}</p>
        </>
      )}
      {peaks && (
        <>
          <button
            type="button"
            className={cx("listening-wave")}
            aria-label="The song's waveform: click to hear it from there"
            onClick={(event) => {
              const box = event.currentTarget.getBoundingClientRect();
              clock.seek(((event.clientX - box.left) / box.width) * seconds);
            }}
          >
            <Canvas paint={paint} height={120} label="Waveform" />
          </button>
          <div className="buttons">
            <Button size="small" disabled={!ready} onClick={() => clock.toggle()} data-testid="listening-play">
              {playing ? "Pause" : "Play"}
            </Button>
            <span className="mono soft">
              {minutes(at)} of {minutes(seconds)}
            </span>
          </div>
        </>
      )}
    </section>
  );
}

/** Position of the playhead, ten times a second. */
function usePosition(): number {
  const [at, setAt] = useState(0);
  useEffect(() => clock.subscribe((position) => setAt(Math.round(position * 10) / 10)), []);
  return at;
}
