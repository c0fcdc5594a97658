import { App, Button, InputNumber, Segmented, Select, Switch } from "antd";
import { useEffect, useState } from "react";
import { api, data, type MediaView, type SongDetail, type SongView } from "../../api/client";
import { useProject } from "../../api/project";
import { hitRows, strongHits } from "./paint";
import { HITS, within } from "../../api/facts";
import { FilePicker } from "../../parts/FilePicker";
import { Sensitivity } from "../../parts/Sensitivity";
import type { Role } from "../../parts/Uploads";
import { clock, useClock } from "../../player/clock";
import type { Correction } from "./actions";
import type { Look } from "./view";
import { type Row, rowsOf } from "./readings";
import { DoubtfulPassages } from "./Doubtful";
import { Taps } from "./Taps";
import own from "./GridPanel.module.css";
import view from "./song.module.css";
import { classes } from "../../parts/classes";
import { TextButton } from "../../parts/TextButton";

const cx = classes(own, view);

type Correct = (correction: Correction) => void;

/** The tempo and its rival readings, the one, the metre, the click; hits and stems. */
export function GridPanel({
  song,
  detail,
  look,
  change,
  correct,
}: {
  song: SongView;
  detail: SongDetail | undefined;
  look: Look;
  change: (more: Partial<Look>) => void;
  correct: Correct;
}) {
  const click = useClock((c) => c.click);
  const loop = useClock((c) => c.loop);
  const [bpm, setBpm] = useState<number | null>(null);
  const setTempo = () => {
    if (bpm !== null && Math.abs(bpm - song.bpm) > 0.004) correct({ action: "tempo", bpm, song_s: clock.position() });
    setBpm(null);
  };
  return (
    <>
      <div className={cx("tempo-line")}>
        <InputNumber
          className={cx("bpm-field")}
          value={bpm ?? Number(song.bpm.toFixed(2))}
          {...within("bpm")}
          step={0.01}
          precision={2}
          controls={false}
          onChange={(v) => setBpm(v)}
          onPressEnter={setTempo}
          onBlur={setTempo}
          aria-label="Beats a minute"
          data-testid="bpm"
        />
        <Taps name="Tap the tempo" use={(taps) => correct({ action: "tap", taps })} />
      </div>
      <p className="soft">
        beats a minute, {tempoWords(song)} · {signature(song)}
        <Sureness song={song} />
      </p>
      <Taste song={song} correct={correct} />
      <Readings song={song} correct={correct} />
      <DoubtfulPassages song={song} correct={correct} />
      <div className="buttons">
        <Button onClick={() => correct({ action: "the one", song_s: clock.position() })} data-testid="the-one">
          Beat at the playhead is the one
        </Button>
        <Button onClick={() => correct({ action: "nudge", seconds: -0.005 })} aria-label="Move the grid 5 ms earlier">
          ◂ 5 ms
        </Button>
        <Button onClick={() => correct({ action: "nudge", seconds: 0.005 })} aria-label="Move the grid 5 ms later">
          5 ms ▸
        </Button>
        <Select
          value={song.metre}
          onChange={(metre) =>
            loop
              ? correct({ action: "metre range", metre, song_s: loop[0], to_s: loop[1] })
              : correct({ action: "metre", metre })
          }
          options={[2, 3, 4, 5, 6, 7, 9, 12].map((m) => ({ value: m, label: `${m} beats a bar` }))}
          title={loop ? "For the loop range" : "For the whole song"}
          aria-label={loop ? "Beats in a bar, in the loop range" : "Beats in a bar"}
        />
      </div>
      <div className={cx("form-row")}>
        <span>Click on the beat</span>
        <Switch
          checked={click}
          onChange={(on) => clock.setClick(on)}
          aria-label="Click on the beat"
          data-testid="click"
        />
      </div>
      <h2>Hits: from accents to every one</h2>
      {hitRows(detail).map((kind) => (
        <div key={kind} className={cx("hits-row")} data-testid={`hits-row-${kind}`}>
          <span>{HITS[kind].many}</span>
          <Sensitivity
            kind={kind}
            seen={(share) => change({ sensitivities: { ...look.sensitivities, [kind]: share } })}
          />
          <span className="soft">{strongHits(detail, kind, look.sensitivities).length}</span>
        </div>
      ))}
      <Stems />
    </>
  );
}

/** A share as it is told: nothing that is heard is wholly sure. */
const percent = (share: number) => `${Math.min(99, Math.round(100 * share))} %`;

/** How sure the beats and the one are, as found; nothing once the song is counted as the editor chose. */
function Sureness({ song }: { song: SongView }) {
  if (song.straight || song.from_file) return null;
  if (song.factor !== 1 || song.half_shift) return <> · counted as you chose</>;
  const { place, bar } = song.sure;
  const one = (
    <span title="How sure it is that bars begin where these do" data-testid="sure-of-the-one">
      {bar >= SURE ? `the one ${percent(bar)}` : <b className={cx("doubt")}>the one only {percent(bar)}</b>}
    </span>
  );
  return (
    <>
      {" "}
      ·{" "}
      {place >= SURE ? (
        <span title="How sure it is that the beats lie on the music's">beats sure {percent(place)}</span>
      ) : (
        <b className={cx("doubt")}>
          beats unsure ({percent(place)}): {DOUBTS[song.doubt] ?? "listen to the click"}
        </b>
      )}
      , {one}
    </>
  );
}

/** Both ways to count a song of which it is a matter of taste how fast it goes; nothing where that is clear. */
function Taste({ song, correct }: { song: SongView; correct: Correct }) {
  const { rival, level } = song.sure;
  if (song.straight || song.from_file || level >= SURE || ![1, rival].includes(song.factor)) return null;
  const found = song.bpm / song.factor;
  const ways = [1, rival].sort((a, b) => a - b).map((f) => ({ value: f, label: Math.round(found * f) }));
  return (
    <p className={cx("taste")} data-testid="taste">
      How fast it is counted is a matter of taste:
      <Segmented
        size="small"
        value={song.factor}
        onChange={(factor) => correct({ action: factor < song.factor ? "halve" : "double" })}
        options={ways}
        aria-label="Counted at beats a minute"
      />
    </p>
  );
}

/** What is less likely than this is said to be in doubt. */
const SURE = 0.8;

function tempoWords(song: SongView): string {
  if (song.straight) return "straight, set by hand";
  if (song.from_file) return "read from a file";
  if (song.steady) return "steady through the song";
  const parts = song.tempo.length;
  return parts > 1 ? `${parts} stretches, each its own tempo` : "moving with the music";
}

function signature(song: SongView): string {
  if (song.division === 3) return song.metre === 2 ? "6/8" : `${3 * song.metre}/8`;
  return song.metre === 6 ? "6/8" : `${song.metre}/4`;
}

/** Doubts about the grid, in words. */
const DOUBTS: Record<string, string> = {
  half: "it may go half as fast",
  double: "it may go twice as fast",
  aside: "the beat may lie half-way",
  tempo: "another tempo may fit",
};

/** Ways to count the song, the likeliest other one first: each can be heard before it is taken. */
function Readings({ song, correct }: { song: SongView; correct: Correct }) {
  const { path } = useProject();
  const { message } = App.useApp();
  const [heard, setHeard] = useState<string | null>(null);
  useEffect(() => () => clock.tryClicks(null), []);
  const hear = (row: Row) => {
    const stop = heard === row.key;
    setHeard(stop ? null : row.key);
    if (stop) return clock.tryClicks(null);
    const body = row.correction;
    data(api.POST("/api/v1/projects/{project_id}/song/grid/clicks", { params: path, body })).then(
      (clicks) => clock.tryClicks(clicks.map((c) => ({ at: c.at_s, down: c.down }))),
      (fault: Error) => {
        setHeard(null);
        void message.error(fault.message);
      },
    );
  };
  const take = (row: Row) => {
    setHeard(null);
    clock.tryClicks(null);
    correct(row.correction);
  };
  return (
    <div className={cx("readings")}>
      {rowsOf(song, clock.position()).map((r, i) => (
        <div key={r.key} className={cx("reading-row")}>
          <button
            type="button"
            className={cx(r.on ? "reading on" : "reading")}
            onClick={() => take(r)}
            data-testid={r.key}
            title={titleOf(r)}
          >
            <span>
              {r.name}
              {i === 1 && r.reading && <small>{r.reading.reason}</small>}
            </span>
            <span>{r.bpm.toFixed(2)}</span>
          </button>
          {r.key !== "found" && !r.on && (
            <TextButton
              onClick={() => hear(r)}
              aria-pressed={heard === r.key}
              title="Hear its clicks over the song before taking it"
              data-testid={`hear-${r.key}`}
            >
              {heard === r.key ? "stop" : "hear"}
            </TextButton>
          )}
        </div>
      ))}
    </div>
  );
}

function titleOf(row: Row): string | undefined {
  if (row.key === "found") return "Take back every correction of the grid";
  return row.on ? "Take this back" : row.reading?.reason;
}

const ROLES: readonly Role[] = ["voice", "drums", "instrumental"];

/** Stems of the song, each checked to be of it. */
function Stems() {
  const { state } = useProject();
  const [adding, setAdding] = useState<Role | null>(null);
  const stems = state.media.filter((m) => m.kind === "stem");
  return (
    <>
      <h2>Stems</h2>
      {stems.length === 0 && <p className="soft">With the voice or drums alone, voice and hits are heard better.</p>}
      {stems.map((m) => (
        <p key={m.id} className={m.error ? "bad" : undefined}>
          <b>{m.name}</b> {stemState(m)}
        </p>
      ))}
      <div className="buttons">
        {ROLES.map((role) => (
          <Button key={role} size="small" onClick={() => setAdding(role)}>
            Add {role}…
          </Button>
        ))}
      </div>
      <FilePicker kind="stem" role={adding ?? undefined} open={adding !== null} close={() => setAdding(null)} />
    </>
  );
}

function stemState(stem: MediaView): string {
  if (stem.error) return stem.error;
  return stem.state === "ready" && stem.prepared ? "fits the song" : "being compared with the song…";
}
