import { shotsOf } from "../../api/lanes";
import { Button, Segmented } from "antd";
import { NumberField } from "../../parts/NumberField";
import { useMemo } from "react";
import { api, data, type Unit } from "../../api/client";
import { useEdit, useProject } from "../../api/project";
import { within } from "../../api/facts";
import { classes } from "../../parts/classes";
import { beatsBetween } from "../../parts/beats";
import { barBeat } from "../../parts/format";
import { useCommandKeys } from "../../parts/keys";
import { spanAt } from "../../player/layers";
import { Picture } from "../../player/Picture";
import { useChoice } from "./choice";
import { columnsFor } from "./geometry";
import { onKeys, sectionAt } from "./keys";
import { UnitChoice } from "./UnitChoice";
import styles from "./LiveView.module.css";
import { Rows } from "./Rows";
import { awayFor, nextBeat } from "./passage";
import { useFrame } from "../../player/useFrame";
import { WallPicture } from "./Viewer";

const cx = classes(styles);

/** Switching live: the programme and the angles large, under them the phrase that plays and the next. */
export function LiveView() {
  const { state, rate, act, path, turn } = useProject();
  const edit = useEdit();
  const over = useChoice((c) => c.over);
  const frame = useFrame(rate);
  const layers = useMemo(() => edit?.programme.layers ?? [], [edit]);
  const song = state.song;
  const section = sectionAt(song, frame / rate);
  const wall = useMemo(() => onKeys(state.angles, state.keys[section]), [state.angles, state.keys, section]);
  const shots = shotsOf(edit);
  const index = shots.findIndex((s) => frame >= s.start && frame < s.end);
  const shot = shots[index];
  const on = state.angles.find((a) => a.id === shot?.source.angle);
  const settings = (body: { lead: number }) =>
    act(() => data(api.PATCH("/api/v1/projects/{project_id}/settings", { params: path, body })));
  useCommandKeys("Switching live", [
    { keys: "Backspace", words: "Take back the last switch", run: () => void turn("undo") },
  ]);
  if (!song || !edit) return null;
  const next = nextBeat(song, frame / rate);
  const upright = state.width < 1.2 * state.height;
  return (
    <div className={cx("live")} data-testid="live">
      <div className="tools">
        <b>Switching live</b>
        <Segmented
          size="small"
          value={over ?? "cut"}
          onChange={(v) => useChoice.setState({ over: v === "cut" ? null : (v as "section" | "song") })}
          options={[
            { label: "until the next cut", value: "cut" },
            { label: "over this section", value: "section" },
            { label: "over all from here", value: "song" },
          ]}
          data-testid="live-over"
        />
        <span className="tools-label">cuts fall on</span>
        <UnitChoice unit={state.unit as Unit} />
        <NumberField
          size="small"
          {...within("lead")}
          value={state.lead}
          change={(v) => void settings({ lead: v })}
          suffix="f lead"
          style={{ width: 84 }}
          aria-label="Lead in frames"
        />
        <span className="grow" />
        <Button size="small" onClick={() => void turn("undo")}>
          Take back the last ⌫
        </Button>
        <Button
          size="small"
          type="primary"
          onClick={() => useChoice.setState({ layout: "rows" })}
          data-testid="live-end"
        >
          Back to the sheet
        </Button>
      </div>
      <div className={cx(wall.length > 4 && wall.length <= 6 ? "stage wide" : "stage")}>
        <div className={cx("programme")}>
          <Picture layers={layers} size="programme" label="Programme" id="programme" />
          <div className={cx("line")}>
            <span>
              <b>Programme</b> · {on ? `${on.number} ${on.name}` : (shot?.source.kind ?? "")}
            </span>
            {shot && (
              <span className="mono">{beatsBetween(song, shot.start / rate, frame / rate).toFixed(1)} beats on</span>
            )}
          </div>
          <div className={cx("card")}>
            {next && (
              <div>
                <b>next</b> falls on <span className="mono">{barBeat(song, next.beat + 0.01)}</span> in{" "}
                <span className="mono">{next.away.toFixed(1)} beats</span>
              </div>
            )}
            <div className="soft">{on ? sinceWhen(awayFor(song, shots, index, rate), on.number) : ""}</div>
          </div>
        </div>
        <div
          className={cx(upright ? "wall upright" : "wall")}
          style={{
            gridTemplateColumns: `repeat(${columnsFor(wall.length, state.width / state.height)}, minmax(0, 1fr))`,
          }}
        >
          {wall.map(({ angle, key }) => (
            <WallPicture
              key={angle.id}
              angle={angle}
              button={key}
              on={angle.id === on?.id}
              here={spanAt(angle.spans, frame) !== undefined}
              large
              many={wall.length > 4}
            />
          ))}
          {!wall.length && <p>No angle has picture in this section.</p>}
        </div>
      </div>
      <div className={cx("now")}>
        <Rows song={song} edit={edit} dense={false} around={frame / rate} />
      </div>
    </div>
  );
}

function sinceWhen(away: ReturnType<typeof awayFor>, number: number): string {
  if (!away) return `${number} is on for the first time`;
  const said = away.bars < 1 ? `${away.beats.toFixed(1)} beats` : `${away.bars.toFixed(1)} bars`;
  return `${number} was away for ${said}`;
}
