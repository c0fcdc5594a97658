import { shotsOf, itemsOn } from "../../api/lanes";
import { Button, Tooltip } from "antd";
import { memo } from "react";
import { api, data, type EditView, type ItemView, type PassView, type SongView } from "../../api/client";
import { useEdit, useProject } from "../../api/project";
import { classes } from "../../parts/classes";
import { barBeat, timecode } from "../../parts/format";
import { TextButton } from "../../parts/TextButton";
import { spanAt } from "../../player/layers";
import { hueOf } from "../../theme";
import { tapSet } from "../song/taps";
import { useSheetActions } from "./actions";
import { useChoice } from "./choice";
import styles from "./Facts.module.css";
import { awayFor, lengthOf, summary, wholeShots } from "./passage";
import { nameOf } from "./titles/card";
import { ShotMenu } from "./ShotMenu";
import { inWords } from "./treating/kinds";
import { Typed } from "./Typed";
import { useFrame } from "../../player/useFrame";

const cx = classes(styles);

/** Facts of the choice: several shots, a cutaway, or the shot at the playhead. */
export function Facts() {
  const { state, rate } = useProject();
  const edit = useEdit();
  const chosen = useChoice((c) => c.item);
  const range = useChoice((c) => c.range);
  const frame = useFrame(rate);
  const song = state.song;
  if (range && song && edit) return <ChosenShots range={range} song={song} edit={edit} />;
  const over = [...itemsOn(edit, "over"), ...itemsOn(edit, "titles")].find((c) => c.id === chosen);
  if (over) return <CutawayFacts over={over} frame={frame} />;
  const index = shotsOf(edit).findIndex((s) => frame >= s.start && frame < s.end);
  if (!edit || index < 0 || !song)
    return (
      <div className={cx("facts")}>
        <p className="soft">Click a shot to see what it shows.</p>
      </div>
    );
  return <ShotFacts shots={shotsOf(edit)} index={index} song={song} />;
}

type Range = NonNullable<ReturnType<typeof useChoice.getState>["range"]>;

function ChosenShots({ range, song, edit }: { range: Range; song: SongView; edit: EditView }) {
  const { rate, operate, act, path } = useProject();
  const chosen = wholeShots(range, shotsOf(edit));
  const mark = () => {
    const cuts = shotsOf(edit).filter((s) => s.start >= chosen.first && s.start < chosen.end);
    const body = { times_s: cuts.map((s) => s.start / rate), set_id: tapSet.current, working: true };
    return act(
      () => data(api.POST("/api/v1/projects/{project_id}/song/marks", { params: path, body })),
      `${cuts.length} ${cuts.length === 1 ? "mark" : "marks"} made`,
    );
  };
  return (
    <div className={cx("facts")} data-testid="chosen-shots">
      <h2>Shots chosen together</h2>
      <p>{summary(song, edit, { ...chosen, name: "" }, rate)}</p>
      <p>
        {lengthOf(song, { start: chosen.first, end: chosen.end }, rate)} in all, from {timecode(chosen.first, rate)}
      </p>
      <div className="buttons">
        <Button size="small" onClick={() => void operate({ op: "clear", first: chosen.first, end: chosen.end })}>
          Empty them
        </Button>
        <Button
          size="small"
          onClick={() => void mark()}
          title="A mark on each of their cuts, in the set that is tapped into"
          data-testid="marks-of-cuts"
        >
          Marks of their cuts
        </Button>
        <Button size="small" onClick={() => useChoice.setState({ range: null })}>
          Choose one again
        </Button>
        <span className="soft">Passage… works on them.</span>
      </div>
    </div>
  );
}

function CutawayFacts({ over, frame }: { over: ItemView; frame: number }) {
  const { state, rate, operate } = useProject();
  const clip = state.media.find((m) => m.id === over.source.media);
  const item = over.id;
  const title = over.source.card !== null;
  const nudge = (edge: "in" | "all" | "out", frames: number) => operate({ op: "move item", item, frames, edge });
  return (
    <div className={cx("facts")}>
      <h2>{title ? `Title · ${nameOf(over)}` : `Cutaway · ${clip?.name}`}</h2>
      <dl>
        <dt>From</dt>
        <dd className="mono">
          <Typed
            name="from"
            shown={timecode(over.start, rate)}
            take={(frame) => void nudge("all", frame - over.start)}
          />{" "}
          ·{" "}
          <Typed
            name="length"
            shown={`${over.end - over.start} f`}
            from={over.start}
            take={(frame) => void nudge("out", frame - over.end)}
          />
        </dd>
        <dt>Until</dt>
        <dd className="mono">
          <Typed name="until" shown={timecode(over.end, rate)} take={(frame) => void nudge("out", frame - over.end)} />
        </dd>
        {!title && (
          <>
            <dt>Clip in</dt>
            <dd className="mono">{over.source.in_s.toFixed(2)} s</dd>
          </>
        )}
        <dt>Treated</dt>
        <dd title={inWords(over)}>
          {over.treated ? inWords(over) : "not"}{" "}
          <TextButton onClick={() => useChoice.setState({ treating: "here" })} title="Key E">
            {over.treated ? "change" : "treat it…"}
          </TextButton>
        </dd>
      </dl>
      <div className="buttons">
        <Button
          size="small"
          onClick={() => {
            void operate({ op: "take off", item });
            useChoice.setState({ item: null });
          }}
        >
          Take off
        </Button>
        {!title && (
          <Button size="small" onClick={() => void operate({ op: "drop", item })} data-testid="drop">
            Drop into the base
          </Button>
        )}
        <Button size="small" onClick={() => void operate({ op: "split", item, at: frame })}>
          Split here
        </Button>
      </div>
      <div className="buttons">
        {(["in", "all", "out"] as const).map((edge) => (
          <span key={edge} className={cx("nudge")}>
            <Button size="small" onClick={() => void nudge(edge, -1)} aria-label={`${edge} a frame earlier`}>
              ◂
            </Button>
            {edge === "all" ? "move" : edge}
            <Button size="small" onClick={() => void nudge(edge, 1)} aria-label={`${edge} a frame later`}>
              ▸
            </Button>
          </span>
        ))}
      </div>
    </div>
  );
}

function ShotFacts({ shots, index, song }: { shots: readonly ItemView[]; index: number; song: SongView }) {
  const { state, rate, operate } = useProject();
  const shot = shots[index] as ItemView;
  const angle = state.angles.find((a) => a.id === shot.source.angle);
  const span = angle ? spanAt(angle.spans, shot.start) : undefined;
  const take = state.takes.find((t) => t.media === span?.media);
  const pass = take?.passes.find(
    (p) => span && p.song_start_s <= (span.start + 1) / rate && p.song_end_s >= (span.start + 1) / rate,
  );
  const clip = state.media.find((m) => m.id === (shot.source.media ?? span?.media));
  const also = state.angles.filter(
    (a) => a.id !== angle?.id && spanAt(a.spans, shot.start) && spanAt(a.spans, shot.end - 1),
  );
  const next = shots[index + 1];
  const away = awayFor(song, shots, index, rate);
  return (
    <div className={cx("facts")} data-testid="facts">
      <h2>
        Shot {index + 1} · bar {barBeat(song, (shot.start + 0.5) / rate)}
      </h2>
      <dl>
        <dt>Source</dt>
        <dd>
          {angle ? (
            <>
              <b style={{ color: hueOf(angle.hue) }}>{angle.number}</b> {angle.name} · {clip?.name ?? "no take here"}
            </>
          ) : (
            (clip?.name ??
            (shot.source.kind === "empty" ? `an empty slot${shot.source.words && `: ${shot.source.words}`}` : "black"))
          )}
        </dd>
        <dt>In</dt>
        <dd className="mono">
          {index ? (
            <Typed
              name="in"
              shown={timecode(shot.start, rate)}
              take={(to) => void operate({ op: "move", item: shot.id, to })}
            />
          ) : (
            timecode(shot.start, rate)
          )}{" "}
          · {shot.label}
        </dd>
        <dt>Out</dt>
        <dd className="mono">
          {next ? (
            <Typed
              name="out"
              shown={timecode(shot.end, rate)}
              take={(to) => void operate({ op: "move", item: next.id, to })}
            />
          ) : (
            timecode(shot.end, rate)
          )}{" "}
          · {next ? next.label : "end of the song"}
        </dd>
        {pass && (
          <>
            <dt>Lips</dt>
            <dd>
              <Lips shot={shot} pass={pass} />
            </dd>
          </>
        )}
        <dt>Length</dt>
        <dd>
          {next ? (
            <Typed
              name="length"
              shown={lengthOf(song, shot, rate)}
              from={shot.start}
              take={(to) => void operate({ op: "move", item: next.id, to })}
            />
          ) : (
            lengthOf(song, shot, rate)
          )}
          {away === null ? "" : ` · away ${away.bars < 1 ? "less than a bar" : `${away.bars.toFixed(1)} bars`}`}
        </dd>
        <dt>Treated</dt>
        <dd title={inWords(shot)}>
          {shot.treated ? inWords(shot) : "not"}{" "}
          <TextButton onClick={() => useChoice.setState({ treating: "here" })} data-testid="treat" title="Key E">
            {shot.treated ? "change" : "treat it…"}
          </TextButton>
        </dd>
        <dt>Also here</dt>
        <dd>
          {also.length ? also.map((a) => `${a.number} ${a.name}`).join(" · ") : "no other angle covers all of it"}
        </dd>
      </dl>
      <div className="buttons">
        <ShotButtons first={index < 1} held={shot.held} />
        <ShotMenu shot={shot} next={next} key={shot.id} />
      </div>
    </div>
  );
}

/** Sync of the lips, and by what it is known. */
function Lips({ shot, pass }: { shot: ItemView; pass: PassView }) {
  const spread = pass.residuals.length ? Math.max(...pass.residuals.map(([, r]) => Math.abs(r ?? 0))) * 1000 : 0;
  if (shot.treated?.pieces) return <span className="bad">off the song by its treatment</span>;
  if (shot.source.slip)
    return (
      <span className="bad">
        out of sync on purpose, {Math.abs(shot.source.slip)} f {shot.source.slip > 0 ? "late" : "early"}
      </span>
    );
  return (
    <>
      <span className="good">●</span> in sync by its pass, within {spread.toFixed(1)} ms
      {pass.origin === "by hand" ? ", by hand" : ""}
    </>
  );
}

const ShotButtons = memo(function ShotButtons({ first, held }: { first: boolean; held: boolean }) {
  const actions = useSheetActions();
  return (
    <>
      <Tooltip title="Key /">
        <Button size="small" type="primary" data-testid="cut-here" onClick={() => void actions.cutHere()}>
          Cut here /
        </Button>
      </Tooltip>
      <Tooltip title="Key \: the shot before runs on">
        <Button size="small" disabled={first} onClick={() => void actions.join()}>
          Join \
        </Button>
      </Tooltip>
      <Button size="small" onClick={() => void actions.hold()}>
        {held ? "Let go" : "Hold this shot"}
      </Button>
    </>
  );
});
