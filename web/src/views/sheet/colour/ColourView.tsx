import { useState } from "react";
import { api, data } from "../../../api/client";
import { useEdit, useProject } from "../../../api/project";
import { classes } from "../../../parts/classes";
import { barBeat } from "../../../parts/format";
import { useCommandKeys } from "../../../parts/keys";
import { clock } from "../../../player/clock";
import { useChoice } from "../choice";
import { Balance, type Of } from "./Balance";
import styles from "./Colour.module.css";
import { changed, REST, type Values } from "./grade";
import { Input } from "./Input";
import { Jumps } from "./Jumps";
import { Looks } from "./Looks";
import { Match } from "./Match";
import { Jumped, Neighbour } from "./Neighbour";
import { Seen, SeenScopes } from "./Seen";
import { STAGE_WORDS, STAGES, type Stage } from "./stages";
import { type KeptStill, keepStill } from "./stills";
import { Tools } from "./Tools";
import { isFar, nameOfShot, ofAngle, useJumpLimit, useJumps, useShot } from "./useColour";
import { type Graded, useGradeTrial } from "./useGradeTrial";

const cx = classes(styles);
type Here = ReturnType<typeof useShot>;

/** The grade of what is seen, of the shot, its angle or its file: its values, and how it is written and tried. */
function useBalance({ shot, own, file }: Here) {
  const { operate, ahead, act, id } = useProject();
  const edit = useEdit();
  const trial = useGradeTrial(ahead, edit);
  const [asked, setOf] = useState<Of>("shot");
  const alike = edit && shot ? ofAngle(edit, shot.item) : [];
  const of = asked === "angle" && alike.length < 2 ? "shot" : asked;
  const one: readonly Graded[] = shot ? [{ id: shot.item.id, start: shot.item.start, end: shot.item.end }] : [];
  const graded = of === "angle" ? alike : one;
  const values: Values = of === "file" ? { ...REST, ...file?.grade } : { ...REST, ...(own ? changed(own) : {}) };
  const writeItems = async (next: Values) =>
    graded.length ? operate({ op: "grade", items: graded.map((i) => i.id), values: changed(next) }) : null;
  const writeFile = async (next: Values) => {
    if (!file) return null;
    const params = { path: { project_id: id, media_id: file.id } };
    return act(() =>
      data(
        api.PUT("/api/v1/projects/{project_id}/media/{media_id}/grade", { params, body: { values: changed(next) } }),
      ),
    );
  };
  return {
    of,
    setOf,
    alike: alike.length,
    values,
    write: async (next: Values) => {
      const after = of === "file" ? await writeFile(next) : await writeItems(next);
      // Refused: what is there now is shown.
      if (!after) trial.forget();
      return after;
    },
    preview: (next: Values | null) => {
      if (!next) trial.forget();
      else if (of !== "file") trial.ofItems(graded, next);
      else if (file) trial.ofFile(file, next);
    },
  };
}

/** Cuts that jump, and the way to the one that jumps most after the one at the playhead, from the worst on. */
function useWorst(shot: Here["shot"], go: (frame: number | undefined) => unknown) {
  const jumps = useJumps();
  const limit = useJumpLimit();
  const far = jumps.filter((j) => isFar(j, limit)).sort((a, b) => b.jump - a.jump);
  const worst = () => {
    const at = far.findIndex((j) => j.frame === shot?.start);
    go((far[at + 1] ?? far[0])?.frame);
  };
  return { jumps, far: far.length, worst };
}

/** Colour: the shot large with its neighbours beside it, how much each cut jumps, and the stages as sheets. */
export function ColourView() {
  const { state, rate, id } = useProject();
  const edit = useEdit();
  const here = useShot();
  const balance = useBalance(here);
  const [off, setOff] = useState<ReadonlySet<Stage>>(new Set());
  const [clipped, setClipped] = useState(false);
  const [still, setStill] = useState<KeptStill | null>(null);
  const [line, setLine] = useState<number | null>(null);
  const { shot, file } = here;
  const go = (frame: number | undefined) => frame !== undefined && clock.seek((frame + 0.001) / rate);
  const { jumps, far, worst } = useWorst(shot, go);
  const filmed = off.size === STAGES.length;
  const setFilmed = (on: boolean) => setOff(new Set(on ? STAGES : []));
  const toggle = (stage: Stage) =>
    setOff((now) => new Set(now.has(stage) ? [...now].filter((one) => one !== stage) : [...now, stage]));
  const keep = () =>
    shot &&
    edit &&
    keepStill({ project: id, edit: edit.id, frame: here.frame, item: shot.item.id, name: nameOfShot(shot, state) });
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
  const song = state.song;
  if (!edit || !song) return null;
  const [into, out] = [shot?.start, shot?.end].map((frame) => jumps.find((j) => j.frame === frame));
  const compare = (next: KeptStill | null) => {
    setStill(next);
    setLine(next ? (line ?? 0.5) : null);
  };
  return (
    <div className={cx("colour")} data-testid="colour">
      <Tools
        {...{ off, filmed, setFilmed, toggle, line, setLine, clipped, setClipped, far, worst }}
        keep={shot ? keep : null}
      />
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
          <Seen {...{ edit, off, clipped, still, line, setLine }} />
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
        <SeenScopes off={off} version={edit.version} />
      </div>
      <Jumps jumps={jumps} />
      <div className={cx("sheets")}>
        <Input file={file} />
        <Balance {...balance} file={file !== undefined} shot={shot !== undefined} />
        <Match shot={here} of={balance.of} write={balance.write} still={still} compare={compare} />
        <Looks frame={here.frame} />
      </div>
    </div>
  );
}
