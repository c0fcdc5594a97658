import { Button, Checkbox, Input, InputNumber, Popconfirm, Select, Typography, Upload } from "antd";
import { useEffect, useState } from "react";
import type { HitKind, SongView } from "../../api/client";
import { useProject } from "../../api/project";
import { HIT_KINDS, HITS, within } from "../../api/facts";
import { clock, useClock } from "../../player/clock";
import { hues } from "../../theme";
import type { SongActions } from "./actions";
import { Calibrate } from "./Calibrate";
import type { Look } from "./view";
import { tapSet } from "./taps";
import view from "./song.module.css";
import own from "./MarksPanel.module.css";
import { classes } from "../../parts/classes";
import { TextButton } from "../../parts/TextButton";

const cx = classes(view, own);

type To = "beat" | "half" | "hit";

/** Sets of marks; tapping with a count-in; making, tidying, thinning and shifting them. */
export function MarksPanel({
  song,
  look,
  change,
  actions,
}: {
  song: SongView;
  look: Look;
  change: (more: Partial<Look>) => void;
  actions: SongActions;
}) {
  const [set, setSet] = useState<number | null>(song.mark_sets[0]?.id ?? null);
  const current = song.mark_sets.find((s) => s.id === set) ?? song.mark_sets[0];
  useEffect(() => {
    tapSet.current = current?.id ?? null;
    return () => {
      tapSet.current = null;
    };
  }, [current?.id]);
  const inSet = song.marks.filter((m) => m.set_id === current?.id);
  return (
    <>
      <TapLine song={song} />
      <div className={cx("sets")}>
        {song.mark_sets.map((s) => (
          <div key={s.id} className={cx(s.id === current?.id ? "set on" : "set")}>
            <Checkbox
              checked={s.shown}
              onChange={(e) => void actions.set(s.id, { shown: e.target.checked })}
              aria-label={`Show ${s.name}`}
            />
            <button
              type="button"
              className={cx("dot")}
              style={{ background: hues[s.hue % hues.length] }}
              onClick={() => void actions.set(s.id, { hue: (s.hue + 1) % 6 })}
              aria-label={`Another colour for ${s.name}`}
              title="Another colour"
            />
            <button type="button" className={cx("set-name")} onClick={() => setSet(s.id)} title="Taps go to this set">
              {s.name}
            </button>
            <span className="mono soft">{song.marks.filter((m) => m.set_id === s.id).length}</span>
            <Popconfirm
              title={`Delete “${s.name}” and its marks?`}
              okText="Delete"
              onConfirm={() => actions.deleteSet(s.id)}
            >
              <TextButton aria-label={`Delete ${s.name}`}>✕</TextButton>
            </Popconfirm>
          </div>
        ))}
      </div>
      {current ? (
        <Rename
          key={`${current.id} ${current.name}`}
          name={current.name}
          save={(name) => void actions.set(current.id, { name })}
        />
      ) : (
        <p className="soft">None yet: play, and tap T on the moments you want; or make some from the music.</p>
      )}
      <Make actions={actions} made={(count) => setSet(count)} />
      {current && inSet.length > 0 && (
        <>
          <Tidy set={current.id} count={inSet.length} look={look} change={change} actions={actions} />
          <Work set={current.id} actions={actions} />
        </>
      )}
      <ChosenMark song={song} look={look} actions={actions} />
      <Files actions={actions} />
    </>
  );
}

function TapLine({ song }: { song: SongView }) {
  const [bars, setBars] = useState(1);
  const [calibrating, setCalibrating] = useState(false);
  const playing = useClock((c) => c.playing);
  const begin = () => clock.play(1, { clicks: bars * song.metre, beat: 60 / song.bpm });
  return (
    <>
      <div className="buttons">
        <Button onClick={() => (playing ? clock.pause() : begin())} data-testid="count-in">
          {playing ? "Stop" : "Count in, play"}
        </Button>
        <Select
          value={bars}
          onChange={setBars}
          options={[1, 2].map((n) => ({ value: n, label: n === 1 ? "1 bar" : "2 bars" }))}
          aria-label="Count-in"
        />
        <Button onClick={() => setCalibrating(true)} title="How late your taps are on this browser">
          Latency…
        </Button>
      </div>
      <p className="soft">
        Tap <b>T</b> while it plays; set a loop range to practise a passage.
      </p>
      <Calibrate open={calibrating} close={() => setCalibrating(false)} />
    </>
  );
}

function Rename({ name, save }: { name: string; save: (name: string) => void }) {
  const [text, setText] = useState(name);
  const done = () => text.trim() && text !== name && save(text);
  return (
    <div className={cx("form-row")}>
      <span>Taps go to</span>
      <Input
        value={text}
        onChange={(e) => setText(e.target.value)}
        onPressEnter={done}
        onBlur={done}
        aria-label="Name of the set"
      />
    </div>
  );
}

function Make({ actions, made }: { actions: SongActions; made: (set: number) => void }) {
  const [from, setFrom] = useState("bar");
  const make = async () => {
    if (from === "empty") {
      const set = await actions.newSet({ of: "nothing", name: "new marks" });
      if (set) made(set.id);
      return;
    }
    if (from === "accents") await actions.newSet({ of: "accents", name: "accents" });
    else if (from.startsWith("hits")) {
      const kind = from.slice(5) as HitKind;
      await actions.newSet({ of: "hits", kinds: [kind], name: HITS[kind].many });
    } else await actions.newSet({ of: "grid", every: from as "bar" });
  };
  return (
    <div className={cx("form-row")}>
      <Select
        value={from}
        onChange={setFrom}
        aria-label="Make marks from"
        options={[
          { value: "bar", label: "every bar" },
          { value: "phrase", label: "every phrase" },
          { value: "4 beats", label: "every fourth beat" },
          { value: "2 beats", label: "every second beat" },
          { value: "beat", label: "every beat" },
          { value: "half", label: "every half-beat" },
          { value: "accents", label: "the strongest hit of each bar" },
          ...HIT_KINDS.map((kind) => ({ value: `hits ${kind}`, label: HITS[kind].many })),
          { value: "empty", label: "nothing: an empty set" },
        ]}
      />
      <Button onClick={make} data-testid="make-marks">
        Make a set
      </Button>
    </div>
  );
}

function Tidy({
  set,
  count,
  look,
  change,
  actions,
}: {
  set: number;
  count: number;
  look: Look;
  change: (more: Partial<Look>) => void;
  actions: SongActions;
}) {
  const [to, setTo] = useState<To>("beat");
  const [reach, setReach] = useState(120);
  const shown = look.ghosts.size;
  const body = { action: "tidy" as const, to, reach_s: reach / 1000, set_id: set };
  const preview = async () => {
    const moves = (await actions.marks({ ...body, preview: true }))?.moved;
    change({ ghosts: new Map((moves ?? []).map((m) => [m.id, m.to_s])) });
    setNone(moves?.length === 0);
  };
  const [none, setNone] = useState(false);
  const clear = () => change({ ghosts: new Map() });
  const apply = async () => {
    await actions.marks({ ...body, preview: false });
    clear();
  };
  return (
    <>
      <h2>Tidy {count} marks</h2>
      <div className="buttons">
        <Select
          value={to}
          onChange={(v) => {
            setTo(v);
            clear();
          }}
          options={[
            { value: "beat", label: "to beats" },
            { value: "half", label: "to half-beats" },
            { value: "hit", label: "to hits" },
          ]}
          aria-label="Tidy to"
        />
        <InputNumber
          value={reach}
          {...within("tidy_s", 1000)}
          step={10}
          onChange={(v) => {
            setReach(v ?? 120);
            clear();
          }}
          suffix="ms"
          aria-label="Reach"
          style={{ width: 82 }}
        />
        {shown ? (
          <>
            <Button type="primary" onClick={apply} data-testid="tidy-apply">
              Move {shown}
            </Button>
            <Button onClick={clear}>Leave</Button>
          </>
        ) : (
          <Button onClick={preview} data-testid="tidy">
            See it
          </Button>
        )}
      </div>
      {none && !shown && <p className="soft">Nothing within reach has to move.</p>}
    </>
  );
}

function Work({ set, actions }: { set: number; actions: SongActions }) {
  const [every, setEvery] = useState(2);
  const [shift, setShift] = useState(-20);
  return (
    <>
      <div className={cx("form-row")}>
        <span>Keep every</span>
        <span className="buttons">
          <InputNumber
            value={every}
            {...within("thin")}
            onChange={(v) => setEvery(v ?? 2)}
            suffix={every === 2 ? "nd" : every === 3 ? "rd" : "th"}
            aria-label="Keep every"
            style={{ width: 84 }}
          />
          <Button onClick={() => actions.marks({ action: "thin", set_id: set, keep_every: every })}>Thin</Button>
        </span>
      </div>
      <div className={cx("form-row")}>
        <span>Move all by</span>
        <span className="buttons">
          <InputNumber
            value={shift}
            {...within("shift_s", 1000)}
            step={5}
            onChange={(v) => setShift(v ?? 0)}
            suffix="ms"
            aria-label="Shift by"
            style={{ width: 84 }}
          />
          <Button onClick={() => actions.marks({ action: "shift", set_id: set, shift_s: shift / 1000 })}>Shift</Button>
        </span>
      </div>
    </>
  );
}

function ChosenMark({ song, look, actions }: { song: SongView; look: Look; actions: SongActions }) {
  const mark = song.marks.find((m) => m.id === look.mark);
  const [name, setName] = useState("");
  useEffect(() => setName(mark?.name ?? ""), [mark?.name]);
  if (!mark) return null;
  const save = () => name !== mark.name && void actions.mark(mark.id, { name });
  return (
    <>
      <h2>Chosen mark</h2>
      <div className={cx("form-row")}>
        <Input
          value={name}
          placeholder="name"
          onChange={(e) => setName(e.target.value)}
          onBlur={save}
          onPressEnter={save}
          aria-label="Name of the mark"
        />
        <button
          type="button"
          className={cx("dot")}
          style={{ background: mark.hue < 0 ? "transparent" : hues[mark.hue % hues.length] }}
          onClick={() => void actions.mark(mark.id, { hue: mark.hue >= 5 ? -1 : mark.hue + 1 })}
          aria-label="Another colour for the mark"
          title="Another colour; empty is that of its set"
        />
        <Button onClick={() => actions.marks({ action: "delete", ids: [mark.id] })}>Delete</Button>
      </div>
    </>
  );
}

function Files({ actions }: { actions: SongActions }) {
  const { id } = useProject();
  const [said, setSaid] = useState("");
  return (
    <>
      <h2>Marks and sections as files</h2>
      <div className="buttons">
        {(["vtt", "csv", "mid"] as const).map((kind) => (
          <Typography.Link underline key={kind} href={`/api/v1/projects/${id}/song/marks.${kind}`} download>
            {kind === "mid" ? "MIDI with the grid" : kind === "vtt" ? "WebVTT" : "CSV"}
          </Typography.Link>
        ))}
        <Upload
          accept=".vtt,.csv,.mid,.midi"
          showUploadList={false}
          beforeUpload={(file) => {
            void actions.read(file).then((note) => setSaid(note ? `Read: ${note}.` : ""));
            return false;
          }}
        >
          <Button size="small">Read a file…</Button>
        </Upload>
      </div>
      {said && <p className="soft">{said}</p>}
    </>
  );
}
