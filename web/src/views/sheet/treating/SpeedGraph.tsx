import { useRef, useState } from "react";
import type { SongView } from "../../../api/client";
import { useWidth } from "../../../parts/Canvas";
import { type Drag, follow } from "../../../parts/drag";
import { classes } from "../../../parts/classes";
import { Still } from "../../../parts/Still";
import { frameOf, type Place, placeAt, placeText, type Treatment, type Treatments } from "./kinds";
import { bounds, leaps, line, runs, speedAt, speedOf } from "./speed";
import styles from "./Treating.module.css";

const cx = classes(styles);
const HIGH = 118;

interface Props {
  song: SongView;
  rate: number;
  treated: Treatments;
  treatment: Treatment | undefined;
  /** The clip's own speed, and its in point; an angle runs at 1. */
  own: number;
  media: string | null;
  at: (frame: number) => number;
  change: (treatment: Treatment) => void;
  /** Preview with other places, while a handle is dragged. */
  preview: (treatment: Treatment | null) => void;
}

/** The speed of the picture over the shot against its beats; the places of the chosen treatment are dragged on it. */
export function SpeedGraph({ song, rate, treated, treatment, own, media, at, change, preview }: Props) {
  const [pane, width] = useWidth<HTMLDivElement>();
  const [drag, setDrag] = useState<{ name: string; place: Place } | null>(null);
  const dragged = useRef(drag);
  const [first, end] = treated.whole as [number, number];
  const pieces = treated.pieces ?? [{ frames: end - first, at_s: 0, speed: 1, end_speed: 1 }];
  const [frozen, setFrozen] = useState<[number, number] | null>(null);
  const [low, high] = frozen ?? bounds(pieces, own);
  const x = (frame: number) => ((frame - first) / (end - first)) * width;
  const y = (speed: number) => HIGH - ((speed - low) / (high - low)) * HIGH;
  const handles = placesOf(treatment);
  const grab = (name: string) => (event: React.PointerEvent<SVGElement>) => {
    event.stopPropagation();
    const box = pane.current?.getBoundingClientRect();
    const move = ({ event: e }: Drag) => {
      if (!box || !treatment) return;
      const frame = first + ((e.clientX - box.left) / width) * (end - first);
      const place = placeAt(song, Math.min(end - 1, Math.max(first, frame)), rate);
      if (dragged.current && placeText(dragged.current.place) === placeText(place)) return;
      dragged.current = { name, place };
      setDrag(dragged.current);
      preview(withPlace(treatment, name, place));
    };
    follow(event, move, (last) => {
      const now = dragged.current;
      dragged.current = null;
      setDrag(null);
      if (last && now && treatment) change(withPlace(treatment, name, now.place));
      else preview(null);
    });
  };
  /** A speed is dragged up and down, by steps of a twentieth; the graph keeps its scale meanwhile. */
  const grabSpeed = (k: number) => (event: React.PointerEvent<SVGElement>) => {
    event.stopPropagation();
    if (treatment?.kind !== "ramp") return;
    const top = pane.current?.getBoundingClientRect().top ?? 0;
    setFrozen([low, high]);
    let now = treatment;
    const move = ({ event: e }: Drag) => {
      const speed = speedAt(e.clientY - top, HIGH, low, high, own);
      if (speed === now.speeds[k]) return;
      now = {
        ...treatment,
        solved: null,
        moment_s: null,
        speeds: treatment.speeds.map((v, i) => (i === k ? speed : v)),
      };
      preview(now);
    };
    follow(event, move, (last) => {
      setFrozen(null);
      if (last && now !== treatment) change(now);
      else preview(null);
    });
  };
  const points = line(pieces, own).map(([f, v]) => `${x(first + f).toFixed(1)},${y(v).toFixed(1)}`);
  const stills = media ? Math.max(1, Math.floor(width / 96)) : 0;
  return (
    <div ref={pane} className={cx("graph")}>
      <svg
        width={width}
        height={HIGH}
        role="img"
        aria-label="Speed over the shot"
        data-testid="speed-graph"
        data-points={points.join(" ")}
      >
        <Ground song={song} shown={{ first, end, low, high, width, x, y }} leaps={leaps(pieces, rate)} />
        <polyline points={points.join(" ")} className={cx("speed")} />
        {treatment?.kind === "ramp" &&
          runs(
            treatment.at.map((p) => frameOf(song, p as Place, rate)),
            treatment.speeds.length,
            first,
            end,
          ).map(([from, to], k) => (
            <circle
              key={from}
              cx={x((from + to) / 2)}
              cy={y(speedOf(pieces, (from + to) / 2 - first) * own)}
              r={6}
              className={cx("speed-handle")}
              onPointerDown={grabSpeed(k)}
              data-testid={`speed-handle-${k}`}
            >
              <title>Drag up for faster, down for slower</title>
            </circle>
          ))}
        {handles.map(({ name, place }, k) => {
          const now = drag?.name === name ? drag.place : place;
          const frame = frameOf(song, now, rate);
          if (frame === null || frame < first || frame >= end) return null;
          return (
            <g key={name} onPointerDown={grab(name)} className={cx("handle")} data-testid={`handle-${name}`}>
              <rect x={x(frame) - 8} y={0} width={16} height={HIGH} fill="transparent" />
              <line x1={x(frame)} x2={x(frame)} y1={0} y2={HIGH} />
              <circle cx={x(frame)} cy={14 + 18 * k} r={6} />
              <text x={x(frame) + 10} y={18 + 18 * k} className={cx("speed-word")}>
                {placeText(now)}
              </text>
            </g>
          );
        })}
      </svg>
      {media && (
        <div className={cx("strip")}>
          {Array.from({ length: stills }, (_, k) => {
            const frame = Math.floor(((k + 0.5) / stills) * (end - first));
            return <Still key={frame} media={media} at={Math.max(0, at(frame))} width={width / stills - 3} inFilm />;
          })}
        </div>
      )}
    </div>
  );
}

interface Shown {
  /** Frames of the shot, speeds at the bottom and the top, width in points, and where each lies. */
  first: number;
  end: number;
  low: number;
  high: number;
  width: number;
  x: (frame: number) => number;
  y: (speed: number) => number;
}

/** Beats and speeds as lines, and where the picture leaps. */
function Ground({ song, shown, leaps }: { song: SongView; shown: Shown; leaps: readonly number[] }) {
  const { first, end, low, high, width, x, y } = shown;
  const beats = song.beat_frames
    .map((frame, i) => ({ frame, down: song.bars.includes(i) }))
    .filter((b) => b.frame >= first && b.frame < end);
  return (
    <>
      {beats.map((b) => (
        <line
          key={b.frame}
          x1={x(b.frame)}
          x2={x(b.frame)}
          y1={0}
          y2={HIGH}
          className={cx(b.down ? "bar-line" : "beat-line")}
        />
      ))}
      {[0, 0.5, 1, 2, -1]
        .filter((v) => v >= low && v <= high)
        .map((v) => (
          <g key={v}>
            <line x1={0} x2={width} y1={y(v)} y2={y(v)} className={cx("speed-line")} />
            <text x={width - 4} y={y(v) - 3} textAnchor="end" className={cx("speed-word")}>
              {v}×
            </text>
          </g>
        ))}
      {leaps.map((f) => (
        <line key={f} x1={x(first + f)} x2={x(first + f)} y1={0} y2={HIGH} className={cx("leap")} />
      ))}
    </>
  );
}

/** The places in the music that a treatment names. */
function placesOf(treatment: Treatment | undefined): { name: string; place: Place }[] {
  if (!treatment) return [];
  if (treatment.kind === "ramp") return treatment.at.map((place, k) => ({ name: `at ${k}`, place: place as Place }));
  const out: { name: string; place: Place }[] = [];
  for (const name of ["at", "to", "then_at"]) {
    const place = (treatment as Record<string, unknown>)[name] as Place | null | undefined;
    if (place && typeof place === "object") out.push({ name, place });
  }
  return out;
}

function withPlace(treatment: Treatment, name: string, place: Place): Treatment {
  if (treatment.kind === "ramp") {
    const k = Number(name.slice(3));
    return { ...treatment, at: treatment.at.map((p, i) => (i === k ? place : p)) };
  }
  return { ...treatment, [name]: place } as Treatment;
}
