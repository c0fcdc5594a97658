import { Button, Segmented } from "antd";
import { useMemo, useState } from "react";
import { api, data, type Operation } from "../../../api/client";
import { itemsOn } from "../../../api/lanes";
import { useEdit, useProject } from "../../../api/project";
import { TextButton } from "../../../parts/TextButton";
import { classes } from "../../../parts/classes";
import { follow } from "../../../parts/drag";
import { barBeat } from "../../../parts/format";
import { useCommandKeys } from "../../../parts/keys";
import { clock } from "../../../player/clock";
import { Picture } from "../../../player/Picture";
import { useChoice } from "../choice";
import { LayoutChoice } from "../LayoutChoice";
import { useTrial } from "../treating/useTrial";
import styles from "./Colour.module.css";
import { Clipped } from "./Clipped";
import { Controls } from "./Controls";
import { Curves } from "./Curves";
import { changed, REST, type Values } from "./grade";
import { Input } from "./Input";
import { Jumps } from "./Jumps";
import { cubeOf, Looks } from "./Looks";
import { Match } from "./Match";
import { Scopes } from "./Scopes";
import { STAGES, type Stage, withoutStages } from "./stages";
import { type KeptStill, keepStill } from "./stills";
import { isFar, type Jump, nameOfShot, useJumpLimit, useJumps, useShot, withGrade } from "./useColour";

const cx = classes(styles);
const ALL: ReadonlySet<Stage> = new Set(STAGES);
/** What each stage is, for whoever asks. */
const STAGE_WORDS: Record<Stage, string> = {
  input: "the file's table",
  file: "the file's grade",
  shot: "the shot's own grade",
  look: "the looks over passages",
};

/** Colour: the shot large with its neighbours beside it, how much each cut jumps, and the stages as sheets. */
export function ColourView() {
  const { state, rate, operate, ahead, act, id } = useProject();
  const edit = useEdit();
  const trial = useTrial(ahead, edit);
  const here = useShot();
  const jumps = useJumps();
  const [bends, setBends] = useState(false);
  const [of, setOf] = useState<"shot" | "file">("shot");
  const [off, setOff] = useState<ReadonlySet<Stage>>(new Set());
  const [clipped, setClipped] = useState(false);
  const [still, setStill] = useState<KeptStill | null>(null);
  const [line, setLine] = useState<number | null>(null);
  const { shot, own, file, treatments } = here;
  const layers = useMemo(() => edit?.programme.layers ?? [], [edit]);
  const trying = useChoice((c) => c.trial);
  const filmed = off.size === STAGES.length;
  const setFilmed = (on: boolean) => setOff(new Set(on ? STAGES : []));
  const toggle = (stage: Stage) =>
    setOff((now) => new Set(now.has(stage) ? [...now].filter((one) => one !== stage) : [...now, stage]));
  const seen = useMemo(
    () => withoutStages(trying ?? layers, off, state.media, edit ? itemsOn(edit, "ranges") : []),
    [trying, layers, off, state.media, edit],
  );
  const bare = useMemo(() => withoutStages(layers, ALL, state.media, []), [layers, state.media]);
  const keep = () =>
    shot &&
    edit &&
    keepStill({ project: id, edit: edit.id, frame: here.frame, item: shot.item.id, name: nameOfShot(shot, state) });
  const values: Values = of === "file" ? { ...REST, ...file?.grade } : { ...REST, ...(own ? changed(own) : {}) };
  const treat = (next: Values): Operation | null =>
    shot ? { op: "treat", items: [shot.item.id], treatments: withGrade(treatments, next) } : null;
  const write = async (next: Values) => {
    if (of === "shot") {
      const operation = treat(next);
      return operation && operate(operation);
    }
    if (!file) return null;
    const params = { path: { project_id: id, media_id: file.id } };
    return act(() =>
      data(
        api.PUT("/api/v1/projects/{project_id}/media/{media_id}/grade", { params, body: { values: changed(next) } }),
      ),
    );
  };
  const go = (frame: number | undefined) => frame !== undefined && clock.seek((frame + 0.001) / rate);
  const limit = useJumpLimit();
  const far = jumps.filter((j) => isFar(j, limit)).sort((a, b) => b.jump - a.jump);
  /** The cut that jumps most after the one at the playhead, in the order from the worst on. */
  const worst = () => {
    const at = far.findIndex((j) => j.frame === shot?.start);
    go((far[at + 1] ?? far[0])?.frame);
  };
  useCommandKeys("Colour", [
    { keys: "v", words: "As it was filmed, without grades; and back", run: () => setFilmed(!filmed) },
    { keys: "s", words: "Split the picture: as filmed on the left", run: () => setLine(line === null ? 0.5 : null) },
    ...STAGES.map((stage) => ({
      keys: `Shift+${stage[0]}`,
      words: `Without ${STAGE_WORDS[stage]}; and back`,
      run: () => toggle(stage),
    })),
    { keys: "c", words: "Mark where the picture is clipped", run: () => setClipped(!clipped) },
    { keys: "q", words: "Keep this picture to compare with", run: keep },
    { keys: "u", words: "The cut that jumps most, then the next", run: worst },
    { keys: "Escape", words: "Back to the rows", run: () => useChoice.setState({ layout: "rows" }) },
  ]);
  if (!edit || !state.song) return null;
  const [into, out] = [shot?.start, shot?.end].map((frame) => jumps.find((j) => j.frame === frame));
  const drag = (down: React.PointerEvent<HTMLElement>) => {
    const frame = (down.currentTarget.parentElement as HTMLElement).getBoundingClientRect();
    follow(
      down,
      ({ event }) => setLine(Math.min(0.98, Math.max(0.02, (event.clientX - frame.left) / frame.width))),
      () => undefined,
    );
  };
  const song = state.song;
  return (
    <div className={cx("colour")} data-testid="colour">
      <div className="tools">
        <h2>Colour</h2>
        <Button
          size="small"
          aria-pressed={filmed}
          type={filmed ? "primary" : "default"}
          onClick={() => setFilmed(!filmed)}
          title="v"
          data-testid="as-filmed"
        >
          {filmed ? "As filmed" : "As graded"}
        </Button>
        <span className={cx("stages")} role="group" aria-label="Stages of colour that are seen">
          {STAGES.map((stage) => (
            <Button
              key={stage}
              size="small"
              aria-pressed={!off.has(stage)}
              className={off.has(stage) ? cx("left-out") : undefined}
              onClick={() => toggle(stage)}
              title={`${STAGE_WORDS[stage]}: ${off.has(stage) ? "left out" : "seen"} · Shift+${stage[0]}`}
              data-testid={`stage-${stage}`}
            >
              {stage}
            </Button>
          ))}
        </span>
        <Button
          size="small"
          aria-pressed={line !== null}
          onClick={() => setLine(line === null ? 0.5 : null)}
          title="s"
          data-testid="split"
        >
          Split
        </Button>
        <Button
          size="small"
          aria-pressed={clipped}
          type={clipped ? "primary" : "default"}
          onClick={() => setClipped(!clipped)}
          title="c"
          data-testid="mark-clipped"
        >
          Clipped
        </Button>
        <Button size="small" onClick={keep} disabled={!shot} title="q" data-testid="keep-still">
          Keep
        </Button>
        <Button size="small" onClick={worst} disabled={!far.length} title="u" data-testid="worst">
          {far.length ? `${far.length} cuts jump: the worst` : "no cut jumps"}
        </Button>
        <span className="grow" />
        <LayoutChoice />
      </div>
      <div className={cx("stage")}>
        <div className={cx("beside")}>
          <Neighbour
            frame={here.before && shot ? shot.start - 1 : undefined}
            words="before the cut"
            name={nameOfShot(here.before, state)}
            go={() => go(here.before?.start)}
          />
          <Neighbour
            frame={here.after?.start}
            words="after the cut"
            name={nameOfShot(here.after, state)}
            go={() => go(here.after?.start)}
          />
        </div>
        <div className={cx("middle")} style={{ "--shape": state.width / state.height } as React.CSSProperties}>
          <div className={cx("framed")} style={{ aspectRatio: `${state.width} / ${state.height}` }}>
            <Picture layers={seen} size="programme" label="Programme" id="programme" />
            {clipped && <Clipped changed={`${[...off]} ${edit.version} ${trying !== null}`} />}
            {line !== null && (
              <>
                <div className={cx("half")} style={{ clipPath: `inset(0 ${100 * (1 - line)}% 0 0)` }}>
                  {still ? (
                    <img src={still.picture} alt={`Kept: ${still.name}`} />
                  ) : (
                    <Picture layers={bare} size="programme" label="As filmed" />
                  )}
                </div>
                <button
                  type="button"
                  className={cx("line")}
                  style={{ left: `${100 * line}%` }}
                  aria-label={`Line between as filmed and as graded, at ${Math.round(100 * line)} %`}
                  onPointerDown={drag}
                  onKeyDown={(event) => {
                    const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key];
                    if (!by) return;
                    setLine(Math.min(0.98, Math.max(0.02, line + by)));
                    event.preventDefault();
                    event.stopPropagation();
                  }}
                  data-testid="split-line"
                />
                <span className={cx("tag left")}>{still ? `kept: ${still.name}` : "as filmed"}</span>
                <span className={cx("tag right")}>as graded</span>
              </>
            )}
          </div>
          <div className={cx("under")}>
            <span>
              <b>{nameOfShot(shot, state)}</b>
              {shot &&
                ` · bars ${barBeat(song, (shot.start + 0.5) / rate)} to ${barBeat(song, (shot.end - 0.5) / rate)}`}
            </span>
            <span>
              {into && <Jumped words="cut in" jump={into} />}
              {into && out && " · "}
              {out && <Jumped words="cut out" jump={out} />}
            </span>
          </div>
        </div>
        <Scopes changed={`${[...off]} ${edit.version} ${trying !== null}`} />
      </div>
      <Jumps jumps={jumps} />
      <div className={cx("sheets")}>
        <Input file={file} />
        <section className={cx("paper wide")} aria-label="Balance">
          <div className={cx("head")}>
            <h3>Balance</h3>
            <Segmented
              size="small"
              value={of}
              onChange={(v) => setOf(v as "shot" | "file")}
              options={[
                { value: "shot", label: "this shot" },
                { value: "file", label: "its file", title: "The file, wherever it is seen", disabled: !file },
              ]}
              data-testid="balance-of"
            />
            <Segmented
              size="small"
              value={bends}
              onChange={setBends}
              options={[
                { value: false, label: "controls" },
                { value: true, label: "curves" },
              ]}
              data-testid="bends"
            />
            <span className="grow" />
            {Object.keys(changed(values)).length > 0 && (
              <>
                <TextButton href={cubeOf(changed(values))} download>
                  as .cube
                </TextButton>
                <TextButton onClick={() => void write({})} data-testid="to-rest">
                  all to rest
                </TextButton>
              </>
            )}
          </div>
          {shot && bends ? (
            <Curves
              values={values}
              change={(next) => {
                trial.preview(null);
                return write({ ...values, ...next });
              }}
              preview={(next) => {
                if (of === "shot") trial.preview(next === null ? null : treat({ ...values, ...next }));
              }}
            />
          ) : shot ? (
            <Controls
              values={values}
              change={(name, value) => {
                trial.preview(null);
                return write({ ...values, [name]: value });
              }}
              preview={(name, value) => {
                if (of === "shot") trial.preview(value === null ? null : treat({ ...values, [name]: value }));
              }}
            />
          ) : (
            <p className="soft">There is no shot here.</p>
          )}
        </section>
        <Match
          shot={here}
          of={of}
          write={write}
          still={still}
          compare={(next) => {
            setStill(next);
            setLine(next ? (line ?? 0.5) : null);
          }}
        />
        <Looks frame={here.frame} />
      </div>
    </div>
  );
}

/** How much a cut jumps; one that is pointed out can be said to be meant, and the other way round. */
function Jumped({ words, jump }: { words: string; jump: Jump }) {
  const { operate } = useProject();
  const limit = useJumpLimit();
  const far = isFar(jump, limit);
  const mean = (word: string | null) => void operate({ op: "accept", items: [jump.after.item], check: "jump", word });
  return (
    <>
      {words} <b className={far ? cx("jumps-far") : undefined}>jumps {jump.jump.toFixed(1)}</b>
      {far && (
        <>
          {" "}
          <TextButton onClick={() => mean("")} data-testid="jump-meant">
            meant to
          </TextButton>
        </>
      )}
      {jump.meant !== null && (
        <>
          {", "}
          <TextButton onClick={() => mean(null)} data-testid="jump-counts" title="Count it again">
            meant to
          </TextButton>
        </>
      )}
    </>
  );
}

interface NeighbourProps {
  frame: number | undefined;
  words: string;
  name: string;
  go: () => unknown;
}

/** The picture on the other side of a cut. */
function Neighbour({ frame, words, name, go }: NeighbourProps) {
  const { state } = useProject();
  const edit = useEdit();
  if (frame === undefined || !edit) return <div className={cx("neighbour")} />;
  return (
    <button type="button" className={cx("neighbour")} onClick={go} title="Go there">
      <span className={cx("framed")} style={{ aspectRatio: `${state.width} / ${state.height}` }}>
        <Picture layers={edit.programme.layers} size="wall" label={`${name}, ${words}`} at={frame} />
      </span>
      <span>
        <b>{name}</b> · {words}
      </span>
    </button>
  );
}
