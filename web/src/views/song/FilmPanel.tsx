import { Button, Select } from "antd";
import { NumberField } from "../../parts/NumberField";
import type { SongView } from "../../api/client";
import { useProject } from "../../api/project";
import { within } from "../../api/facts";
import { barBeat, minutes, signed } from "../../parts/format";
import { clock, useClock } from "../../player/clock";
import type { SongActions } from "./actions";
import view from "./song.module.css";
import own from "./FilmPanel.module.css";
import { classes } from "../../parts/classes";
import { TextButton } from "../../parts/TextButton";

const cx = classes(view, own);

/** The song in the film: which of it is used, its level and its fades. */
export function FilmPanel({ song, actions }: { song: SongView; actions: SongActions }) {
  const { state } = useProject();
  const loop = useClock((c) => c.loop);
  const working = state.kept.reduce((sum, [a = 0, b = 0]) => sum + b - a, 0);
  const cut = (action: "leave out" | "use only") => {
    if (!loop) return;
    void actions.cut(action, ...loop).then((done) => done && useClock.setState({ loop: null }));
  };
  const range = loop ? `${barBeat(song, loop[0])} to ${barBeat(song, loop[1])}` : "";
  return (
    <>
      <h2>What of the song is used</h2>
      <p>
        {state.left_out.length ? (
          <>
            <b>{minutes(working)}</b> of {minutes(song.seconds)}; the master is not touched.
          </>
        ) : (
          `All of it, ${minutes(song.seconds)}.`
        )}
      </p>
      <p className="soft">
        {loop ? `Loop range ${range}` : "Shift-drag over the waveform to choose a passage, from beat to beat."}
      </p>
      <div className="buttons">
        <Button disabled={!loop} onClick={() => cut("leave out")} data-testid="leave-out">
          Leave it out
        </Button>
        <Button disabled={!loop} onClick={() => cut("use only")} data-testid="use-only">
          Use only it
        </Button>
      </div>
      <ul className={cx("passages")}>
        {state.left_out.map((p) => (
          <li key={p.id}>
            <span>
              left out {barBeat(song, p.start_s)} to {barBeat(song, p.end_s)}{" "}
              <span className="soft">({minutes(p.end_s - p.start_s)})</span>
            </span>
            <span className="buttons">
              <TextButton
                onClick={() => {
                  clock.seek(Math.max(0, p.start_s - 2));
                  clock.play();
                }}
              >
                hear the join
              </TextButton>
              <TextButton onClick={() => void actions.bringBack(p.id)}>bring back</TextButton>
            </span>
          </li>
        ))}
      </ul>
      <h2>Its level in the film</h2>
      <Level actions={actions} />
    </>
  );
}

function Level({ actions }: { actions: SongActions }) {
  const { level, song } = useProject().state;
  const fades = { min: 0, max: song?.seconds ?? 0 };
  const over = level.true_peak_db > -0.05;
  return (
    <>
      <Value
        label="Gain"
        value={level.gain_db}
        step={0.5}
        {...within("gain_db")}
        suffix="dB"
        save={(gain_db) => actions.level({ gain_db })}
      />
      <p className={cx(over ? "doubt" : "soft")}>
        true peak <span className="mono">{signed(level.true_peak_db, 1)}</span> dBTP
        {over ? ", too hot: it can clip" : ""} · <span className="mono">{signed(level.loudness_lufs, 1)}</span> LUFS
      </p>
      <Value
        label="Fade in"
        value={level.fade_in_s}
        step={0.1}
        {...fades}
        suffix="s"
        save={(fade_in_s) => actions.level({ fade_in_s })}
      />
      <Value
        label="Fade out"
        value={level.fade_out_s}
        step={0.1}
        {...fades}
        suffix="s"
        save={(fade_out_s) => actions.level({ fade_out_s })}
      />
      <div className={cx("form-row")}>
        <span>Shape of fades</span>
        <Select
          value={level.shape}
          onChange={(shape) => void actions.level({ shape: shape as "smooth" })}
          options={[
            { value: "even", label: "even" },
            { value: "smooth", label: "smooth" },
            { value: "slow", label: "slow at the quiet end" },
          ]}
          aria-label="Shape of fades"
        />
      </div>
      <p className="soft">How loud you listen is set above the waveform and changes nothing in the film.</p>
    </>
  );
}

function Value({
  label,
  value,
  save,
  ...more
}: {
  label: string;
  value: number;
  step: number;
  min: number;
  max: number;
  suffix: string;
  save: (v: number) => unknown;
}) {
  return (
    <div className={cx("form-row")}>
      <span>{label}</span>
      <NumberField
        size="middle"
        value={value}
        change={(v) => void save(v)}
        aria-label={label}
        style={{ width: 110 }}
        {...more}
      />
    </div>
  );
}
