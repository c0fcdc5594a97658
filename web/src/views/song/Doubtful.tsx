import { Button } from "antd";
import type { SongView } from "../../api/client";
import { classes } from "../../parts/classes";
import { barBeat } from "../../parts/format";
import { clock, useClock } from "../../player/clock";
import type { Correction } from "./actions";
import { Taps } from "./Taps";
import { same, type Span, spansOf } from "./spans";
import { type View, xOf } from "./view";
import styles from "./Doubtful.module.css";
import { TextButton } from "../../parts/TextButton";

const cx = classes(styles);

type Correct = (correction: Correction) => void;

/** Set a passage to run over and over, from its beginning. */
function listenTo(span: Span) {
  useClock.setState({ loop: [span.start_s, span.end_s] });
  clock.seek(span.start_s);
}

/** Passages whose beats are in doubt, marked over the waveform; a click loops one. */
export function DoubtZones({ song, view, width }: { song: SongView; view: View; width: number }) {
  return (
    <>
      {song.doubtful
        .filter((d) => d.end_s > view.from && d.start_s < view.to)
        .map((d) => {
          const left = Math.max(0, xOf(view, d.start_s, width));
          const wide = Math.min(width, xOf(view, d.end_s, width)) - left;
          return (
            <button
              type="button"
              key={d.start_s}
              className={cx("zone")}
              style={{ left, width: Math.max(6, wide) }}
              onPointerDown={(e) => e.stopPropagation()}
              onClick={() => listenTo(d)}
              title={`Bars ${bars(song, d)}: ${WHY[d.reason] ?? "the beat is not sure"}. Click to loop it, then tap it in the Grid panel.`}
              data-testid="doubt-zone"
            >
              {wide > 96 ? "beat not sure" : wide > 20 ? "?" : ""}
            </button>
          );
        })}
    </>
  );
}

const WHY: Record<string, string> = {
  free: "no steady tempo is kept here",
  unlike: "the strokes do not follow the beat here",
};

function bars(song: SongView, span: Span): string {
  return `${barBeat(song, span.start_s + 1e-4)} to ${barBeat(song, span.end_s + 1e-4)}`;
}

/** Passages in doubt, those that were tapped, and the loop range: each can be tapped anew without moving the rest. */
export function DoubtfulPassages({ song, correct }: { song: SongView; correct: Correct }) {
  const loop = useClock((c) => c.loop);
  const spans = spansOf(song, loop);
  if (!spans.length) return null;
  return (
    <>
      <h2>{song.doubtful.length ? "Passages in doubt" : "A passage by itself"}</h2>
      {spans.map((span) => (
        <div key={`${span.kind} ${span.start_s}`} className={cx("passage")} data-testid={`passage-${span.kind}`}>
          <TextButton onClick={() => listenTo(span)} title="Loop it">
            {bars(song, span)}
          </TextButton>
          <span className="soft">
            {span.kind === "tapped"
              ? `tapped, ${span.bpm.toFixed(1)}`
              : span.kind === "loop"
                ? "the loop range"
                : WHY[span.reason]}
          </span>
          {span.kind === "tapped" && (
            <Button
              size="small"
              onClick={() => correct({ action: "take off passage", song_s: (span.start_s + span.end_s) / 2 })}
              data-testid="take-off-passage"
            >
              Take off
            </Button>
          )}
          <Taps
            name="Tap it"
            small
            begin={() => {
              if (!loop || !same(span, { start_s: loop[0], end_s: loop[1] })) listenTo(span);
            }}
            use={(taps) => correct({ action: "mend", song_s: span.start_s, to_s: span.end_s, taps })}
          />
        </div>
      ))}
      <p className="soft">
        Tap four beats or more: only the passage is laid anew. Or Shift-drag one of its beats on the bar numbers.
      </p>
    </>
  );
}
