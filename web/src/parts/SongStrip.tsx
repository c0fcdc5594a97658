import { useCallback, useEffect, useRef } from "react";
import type { SongView, SpanView } from "../api/client";
import { useJobs, wasStopped } from "../api/jobs";
import { useEdit, useProject } from "../api/project";
import { clock, useClock } from "../player/clock";
import { colour } from "../theme";
import { Canvas } from "./Canvas";
import { barBeat, minutes, timecode, toSong } from "./format";
import { GoTo } from "./GoTo";
import { Listening } from "./Listening";
import { peakOf, usePeaks } from "./peaks";
import styles from "./SongStrip.module.css";
import { type Drag, follow } from "./drag";
import { classes } from "./classes";

const cx = classes(styles);

const HEIGHT = 64;
const WAVE_TOP = 20;
const WAVE_BOTTOM = 44;

/** Say where a slider over the song stands, in bars and seconds; its keys are those of the song. */
function tellPlace(slider: HTMLElement | null, song: SongView, at: number): void {
  const now = String(Math.round(at));
  if (!slider || (slider.ariaValueNow === now && useClock.getState().playing)) return;
  slider.ariaValueNow = now;
  const section = song.sections.find((s) => at < s.end_s)?.name ?? "";
  slider.ariaValueText = `bar ${barBeat(song, at).replace(".", " beat ")}, ${section}, ${minutes(at)}`;
}

/** The song at a glance, on every view: sections, loudness, playhead, loop range, and where the edit has picture. */
export function SongStrip() {
  const { state, rate } = useProject();
  const edit = useEdit();
  const song = state.song;
  const peaks = usePeaks(song?.media);
  const stopped = useJobs((j) => wasStopped(j.jobs));
  const playing = useClock((c) => c.playing);
  const loop = useClock((c) => c.loop);
  const bar = useRef<HTMLDivElement>(null);
  const code = useRef<HTMLDivElement>(null);
  const head = useRef<HTMLDivElement>(null);
  const strip = useRef<HTMLDivElement>(null);

  useEffect(
    () =>
      clock.subscribe((at) => {
        if (!song) return;
        // The beat of a frame is the one that lies in it, as a cut there has it.
        if (bar.current) bar.current.textContent = barBeat(song, at + 0.5 / rate);
        if (code.current) code.current.textContent = timecode(Math.floor(at * rate + 1e-6), rate);
        tellPlace(strip.current, song, at);
        if (head.current) head.current.style.left = `${Math.min(100, Math.max(0, (100 * at) / song.seconds))}%`;
      }),
    [song, rate],
  );

  const paint = useCallback(
    (paper: CanvasRenderingContext2D, width: number) => {
      if (!song) return;
      paintLoudness(paper, width, song, (a, b) => {
        const to = (t: number) => (state.whole && song !== state.whole ? toSong(state.kept, t) : t);
        return peaks ? peakOf(peaks, to(a), to(a) + (b - a))[2] : 0;
      });
      const whole = state.whole && song === state.whole ? state.kept : [[0, song.seconds]];
      paintPicture(paper, width, edit?.programme.layers ?? [], rate, whole, song.seconds);
      if (song === state.whole) paintLeftOut(paper, width, state.left_out, song.seconds);
    },
    [song, peaks, edit, rate, state.whole, state.kept, state.left_out],
  );

  const at = (x: number) => {
    const box = strip.current?.getBoundingClientRect();
    return box && song ? Math.min(1, Math.max(0, (x - box.left) / box.width)) * song.seconds : 0;
  };
  const drag = (event: React.PointerEvent) => {
    if (!song || event.button !== 0) return;
    const from = at(event.clientX);
    if (event.shiftKey) useClock.setState({ loop: null });
    else clock.seek(from);
    const move = ({ event: e }: Drag) => {
      const to = at(e.clientX);
      if (!event.shiftKey) clock.seek(to);
      else if (Math.abs(to - from) > 0.2) useClock.setState({ loop: [Math.min(from, to), Math.max(from, to)] });
    };
    follow(event, move, () => undefined);
  };

  return (
    <section className={cx("strip")} aria-label="The song">
      <div className={cx("strip-position")}>
        <GoTo>
          <div ref={bar} className={cx("bar-beat")} data-testid="bar-beat">
            1.1
          </div>
          <div ref={code} className={cx("timecode")} data-testid="timecode">
            00:00:00:00
          </div>
        </GoTo>
        <button
          type="button"
          className={cx("play")}
          onClick={() => clock.toggle()}
          disabled={!song}
          aria-label={playing ? "Pause, space" : "Play, space"}
        >
          <span aria-hidden>{playing ? "❙❙" : "▶"}</span> space
        </button>
        <Listening />
      </div>
      <div
        ref={strip}
        className={cx("strip-song")}
        onPointerDown={drag}
        role="slider"
        tabIndex={0}
        aria-label="Place in the song"
        aria-valuemin={0}
        aria-valuemax={Math.round(song?.seconds ?? 0)}
        aria-valuenow={0}
        data-testid="song-strip"
        title="Click to go there; Shift-drag for a loop range"
      >
        <Canvas paint={paint} height={HEIGHT} />
        {song?.sections.map((s) => (
          <div
            key={s.id}
            className={cx("strip-section")}
            style={{
              left: `${(100 * s.start_s) / song.seconds}%`,
              width: `${(100 * (s.end_s - s.start_s)) / song.seconds}%`,
            }}
          >
            <span>{s.name}</span>
          </div>
        ))}
        {loop && song && (
          <div
            className={cx("strip-loop")}
            data-testid="strip-loop"
            style={{
              left: `${(100 * loop[0]) / song.seconds}%`,
              width: `${(100 * (loop[1] - loop[0])) / song.seconds}%`,
            }}
          />
        )}
        {song && <div ref={head} className={cx("strip-head")} />}
        {!song && (
          <div className={cx("strip-empty")}>
            {!state.media.some((m) => m.kind === "song")
              ? "No song yet"
              : stopped
                ? "The song has not been listened to"
                : "Listening to the song…"}
          </div>
        )}
      </div>
    </section>
  );
}

function paintLoudness(
  paper: CanvasRenderingContext2D,
  width: number,
  song: SongView,
  level: (a: number, b: number) => number,
): void {
  const values = Array.from({ length: width }, (_, x) =>
    level((x / width) * song.seconds, ((x + 1) / width) * song.seconds),
  );
  const top = Math.max(1e-3, ...values);
  const middle = [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0;
  values.forEach((v, x) => {
    paper.fillStyle = v > middle ? colour.wave : "#BDB39A";
    const h = Math.max(1, (v / top) * (WAVE_BOTTOM - WAVE_TOP));
    paper.fillRect(x, WAVE_BOTTOM - h, 1, h);
  });
  paper.fillStyle = colour.rule;
  for (const s of song.sections) paper.fillRect(Math.round((s.start_s / song.seconds) * width), 0, 1, HEIGHT);
}

function paintPicture(
  paper: CanvasRenderingContext2D,
  width: number,
  layers: readonly (readonly SpanView[])[],
  rate: number,
  kept: readonly number[][],
  seconds: number,
): void {
  paper.fillStyle = colour.ink;
  for (const [from = 0, to = 0, at = 0] of offsets(kept)) {
    for (const span of layers.flat()) {
      if (!span.media) continue;
      const a = Math.max(from, from + span.start / rate - at);
      const b = Math.min(to, from + span.end / rate - at);
      if (b > a) paper.fillRect((a / seconds) * width, 51, ((b - a) / seconds) * width + 0.5, 5);
    }
  }
}

/** Kept ranges with the working time at which each starts. */
function offsets(kept: readonly number[][]): number[][] {
  let at = 0;
  return kept.map(([from = 0, to = 0]) => {
    const row = [from, to, at];
    at += to - from;
    return row;
  });
}

function paintLeftOut(
  paper: CanvasRenderingContext2D,
  width: number,
  passages: readonly { start_s: number; end_s: number }[],
  seconds: number,
): void {
  paper.fillStyle = "rgba(241, 233, 217, 0.85)";
  for (const p of passages)
    paper.fillRect((p.start_s / seconds) * width, 18, ((p.end_s - p.start_s) / seconds) * width, HEIGHT - 18);
}
