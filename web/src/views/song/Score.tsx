import { useCallback, useEffect, useEffectEvent, useRef, useState } from "react";
import type { HitKind, SongDetail, SongView } from "../../api/client";
import { HITS } from "../../api/facts";
import { useProject } from "../../api/project";
import { Canvas, useRoom, useWidth } from "../../parts/Canvas";
import { useCommandKeys } from "../../parts/keys";
import { usePeaks } from "../../parts/peaks";
import { useZooming } from "../../parts/pinch";
import { clock, useClock } from "../../player/clock";
import type { SongActions } from "./actions";
import { BarStrip } from "./BarStrip";
import { CutLane } from "./CutLane";
import { DoubtZones } from "./Doubtful";
import { LeftOut } from "./LeftOut";
import { MarkLane } from "./MarkLane";
import { LANE, paintGrid, paintHits, paintLoudness, paintVoice, paintWave, hitRows } from "./paint";
import { Sections } from "./Sections";
import { TempoTags } from "./TempoTags";
import { type Look, nearestIndex, shifted, type View, windowFor, xOf, type Zoom, zoomed } from "./view";
import styles from "./Score.module.css";
import { follow } from "../../parts/drag";
import { classes } from "../../parts/classes";

const cx = classes(styles);

/** The song as a zoomable score: sections and phrases above, waveform with the grid, lanes for what was heard and said. */
export function Score({
  song,
  detail,
  look,
  choose,
  change,
  actions,
  correct,
}: {
  song: SongView;
  detail: SongDetail | undefined;
  look: Look;
  choose: (mark: number | null) => void;
  change: (more: Partial<Look>) => void;
  actions: SongActions;
  correct: (...given: Parameters<SongActions["grid"]>) => void;
}) {
  const { state } = useProject();
  const peaks = usePeaks(song.media);
  const ready = useClock((c) => c.ready);
  const loop = useClock((c) => c.loop);
  const [place, width] = useWidth<HTMLDivElement>();
  const wave = useRoom(place, 140, LANE.height + 76);
  const [view, head] = useView(song, look.zoom, place);
  const [moved, setMoved] = useState(0);

  const paintTop = useCallback(
    (paper: CanvasRenderingContext2D, w: number, h: number) => {
      paintGrid(paper, w, h, song, view);
      if (moved) paintGrid(paper, w, h, song, view, moved);
      if (peaks) paintWave(paper, w, h, peaks, ready ? clock.buffer() : null, view);
    },
    [song, peaks, view, ready, moved],
  );
  const paintLanes = useCallback(
    (paper: CanvasRenderingContext2D, w: number, h: number) => {
      paintGrid(paper, w, h, song, view);
      if (!detail) return;
      paintHits(paper, w, detail, look.sensitivities, view);
      paintVoice(paper, w, detail, view);
      paintLoudness(paper, w, detail, view);
    },
    [song, detail, view, look.sensitivities],
  );

  const press = (event: React.PointerEvent) => {
    const box = place.current?.getBoundingClientRect();
    if (!box || event.button !== 0) return;
    const at = view.from + ((event.clientX - box.left) / box.width) * (view.to - view.from);
    if (event.shiftKey) return dragLoop(event, song, at, (view.to - view.from) / box.width);
    choose(null);
    clock.seek(at);
  };
  return (
    <div className={cx("score")} ref={place} data-testid="score">
      <Sections song={song} view={view} width={width} actions={actions} />
      <Phrases song={song} view={view} width={width} />
      <BarStrip
        song={song}
        detail={detail}
        sensitivities={look.sensitivities}
        view={view}
        width={width}
        correct={correct}
        preview={setMoved}
      />
      <div onPointerDown={press}>
        <Canvas paint={paintTop} height={wave} label="Waveform with bars and beats" />
        <CutLane view={view} width={width} />
      </div>
      <div className={cx("lanes")} onPointerDown={press}>
        <Canvas paint={paintLanes} height={LANE.height} label="Hits, marks, lyrics, voice and loudness" />
        <HitNames detail={detail} heard={look.heard} change={change} />
        <LaneName top={LANE.marks}>marks</LaneName>
        <LaneName top={LANE.lyrics}>lyrics</LaneName>
        <LaneName top={LANE.voice}>voice{detail?.stems.includes("voice") ? ", from its stem" : ", likely"}</LaneName>
        <LaneName top={LANE.loudness}>loudness and energy</LaneName>
        <MarkLane
          song={song}
          view={view}
          width={width}
          chosen={look.mark}
          choose={choose}
          ghosts={look.ghosts}
          actions={actions}
        />
        <LyricLane song={song} view={view} width={width} />
      </div>
      {loop && (
        <div
          className={cx("score-loop")}
          style={{ left: xOf(view, loop[0], width), width: xOf(view, loop[1], width) - xOf(view, loop[0], width) }}
        />
      )}
      <TempoTags song={song} view={view} width={width} />
      <DoubtZones song={song} view={view} width={width} />
      <LeftOut song={song} passages={state.left_out} view={view} width={width} actions={actions} />
      <div ref={head} className={cx("score-head")} />
    </div>
  );
}

/** The stretch that is shown, as keys, wheel and playing move it, and what draws the playhead in it. */
function useView(song: SongView, zoom: Zoom, area: React.RefObject<HTMLDivElement | null>) {
  const head = useRef<HTMLDivElement>(null);
  const [view, setView] = useState<View>({ from: 0, to: song.seconds });
  const { seconds } = song;
  const reset = useEffectEvent(() => setView(windowFor(zoom, song, clock.position())));
  // biome-ignore lint/correctness/useExhaustiveDependencies: another zoom, or a song of another length, is looked at anew
  useEffect(() => reset(), [zoom, seconds]);
  const place = useEffectEvent((at: number) => {
    const { from, to } = view;
    if (head.current) {
      head.current.style.left = `${(100 * (at - from)) / (to - from)}%`;
      head.current.style.display = at < from || at > to ? "none" : "block";
    }
    if (useClock.getState().playing && (at > to || at < from) && to - from < seconds - 0.1)
      setView(shifted(view, at - 0.05 * (to - from), seconds));
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: the playhead is placed again in another stretch
  useEffect(() => clock.subscribe((at) => place(at)), [song, view]);

  // Several steps may come before it is drawn again: each goes on from the one before.
  const secondsOf = (pixels: number, now: View) => (pixels / (area.current?.clientWidth || 1)) * (now.to - now.from);
  useZooming(area, {
    zoom: (factor, x) => setView((now) => zoomed(now, now.from + secondsOf(x, now), factor, seconds)),
    move: (dx) => setView((now) => shifted(now, now.from + secondsOf(dx, now), seconds)),
  });

  const zoomKey = (factor: number) => () => setView((now) => zoomed(now, clock.position(), factor, seconds));
  useCommandKeys("The score", [
    { keys: "+ =", words: "Look closer, down to samples", run: zoomKey(0.6) },
    { keys: "-", words: "Look from further away", run: zoomKey(1.6) },
  ]);

  return [view, head] as const;
}

/** Shift and drag: a loop from beat to beat; a click takes it off. */
function dragLoop(event: React.PointerEvent, song: SongView, at: number, secondsOfPoint: number): void {
  const beat = (t: number) => song.beats[nearestIndex(song.beats, t)] ?? t;
  follow(
    event,
    ({ dx }) => {
      const other = at + dx * secondsOfPoint;
      const a = Math.max(0, beat(Math.min(at, other)));
      const b = Math.min(song.seconds, beat(Math.max(at, other)));
      if (b - a > 0.05) useClock.setState({ loop: [a, b] });
    },
    (last) => {
      if (!last) useClock.setState({ loop: null });
    },
  );
}

/** Names of the rows of hits; a row is heard over the song by its name. */
function HitNames({
  detail,
  heard,
  change,
}: {
  detail: SongDetail | undefined;
  heard: readonly HitKind[];
  change: (more: Partial<Look>) => void;
}) {
  return hitRows(detail).map((kind, row) => {
    const on = heard.includes(kind);
    return (
      <button
        type="button"
        key={kind}
        className={cx(on ? "hit-name heard" : "hit-name")}
        style={{ top: LANE.hits + row * LANE.hit }}
        aria-pressed={on}
        title={
          on ? `${HITS[kind].many} are heard over the song; click to stop` : `Hear the ${HITS[kind].many} over the song`
        }
        onPointerDown={(e) => e.stopPropagation()}
        onClick={() => change({ heard: on ? heard.filter((k) => k !== kind) : [...heard, kind] })}
        data-testid={`hear-${kind}`}
      >
        {HITS[kind].many}
      </button>
    );
  });
}

function LaneName({ top, children }: { top: number; children: React.ReactNode }) {
  return (
    <span className={cx("lane-name")} style={{ top }}>
      {children}
    </span>
  );
}

function Phrases({ song, view, width }: { song: SongView; view: View; width: number }) {
  return (
    <div className={cx("phrase-lane")}>
      {song.phrases
        .filter((p) => p.end_s > view.from && p.start_s < view.to)
        .map((p) => {
          const left = Math.max(0, xOf(view, p.start_s, width));
          const wide = xOf(view, p.end_s, width) - left - 2;
          return (
            <div key={p.start_s} className={cx("phrase")} style={{ left, width: Math.max(2, wide) }}>
              {wide > 112 ? `phrase ${p.number} · ${p.bars} bars` : wide > 56 ? `${p.bars} bars` : ""}
            </div>
          );
        })}
    </div>
  );
}

function LyricLane({ song, view, width }: { song: SongView; view: View; width: number }) {
  const timed = song.lyrics.filter((l) => l.timed);
  return (
    <>
      {timed.map((line) => {
        const end = line.end_s;
        if (end < view.from || line.at_s > view.to) return null;
        const left = Math.max(0, xOf(view, line.at_s, width));
        const wide = xOf(view, end, width) - left - 3;
        if (wide < 4) return null;
        return (
          <button
            type="button"
            key={line.id}
            className={cx("sung")}
            style={{ left, width: wide }}
            title={line.text}
            onPointerDown={(e) => e.stopPropagation()}
            onClick={() => clock.seek(line.at_s)}
          >
            {line.text}
          </button>
        );
      })}
    </>
  );
}
