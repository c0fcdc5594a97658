import { Button, Checkbox, Input, Select } from "antd";
import { useState } from "react";
import { type AngleView, api, data, type PassView } from "../../api/client";
import { useProject } from "../../api/project";
import { classes } from "../../parts/classes";
import { hues } from "../../theme";
import styles from "./Matrix.module.css";
import { usePassActions, useWorkingPasses } from "./useCells";
import { TextButton } from "../../parts/TextButton";

const cx = classes(styles);

/** Actions on an angle: name, hue, order, merge, split, bring rejected passes back. */
export function AngleForm({ angle, passes }: { angle: AngleView; passes: PassView[] }) {
  const { state, act, id, path } = useProject();
  const [name, setName] = useState(angle.name);
  const params = { path: { project_id: id, angle_id: angle.id } };
  const change = (body: { name?: string; hue?: number }) =>
    act(() => data(api.PATCH("/api/v1/projects/{project_id}/coverage/angles/{angle_id}", { params, body })));
  const at = state.angles.findIndex((a) => a.id === angle.id);
  const shift = (by: number) => {
    const ids = state.angles.map((a) => a.id);
    [ids[at], ids[at + by]] = [ids[at + by] as number, ids[at] as number];
    void act(() => data(api.PUT("/api/v1/projects/{project_id}/coverage/order", { params: path, body: { ids } })));
  };
  const merge = (other: number) =>
    act(
      () =>
        data(
          api.POST("/api/v1/projects/{project_id}/coverage/angles/{angle_id}/merge", {
            params,
            body: { angles: [other] },
          }),
        ),
      "Merged: every shot shows what it showed",
    );
  const others = state.angles.filter((a) => a.id !== angle.id);
  return (
    <div className={cx("angle-form")}>
      <Input
        value={name}
        onChange={(e) => setName(e.target.value)}
        onPressEnter={() => change({ name })}
        onBlur={() => name !== angle.name && change({ name })}
        aria-label="Angle name"
      />
      <div className={cx("hues")}>
        {hues.map((hue, i) => (
          <button
            type="button"
            key={hue}
            className={cx(angle.hue === i + 1 ? "hue on" : "hue")}
            style={{ ["--hue" as string]: hue }}
            onClick={() => change({ hue: i + 1 })}
            aria-label={`Hue ${i + 1}`}
          />
        ))}
      </div>
      {angle.because && <p className="soft">Together because: {angle.because}.</p>}
      <div className="buttons">
        <Button size="small" disabled={at === 0} onClick={() => shift(-1)} aria-label={`Move angle ${angle.number} up`}>
          ▴ up
        </Button>
        <Button
          size="small"
          disabled={at === state.angles.length - 1}
          onClick={() => shift(1)}
          aria-label={`Move angle ${angle.number} down`}
        >
          ▾ down
        </Button>
        <Button
          size="small"
          danger
          onClick={() =>
            act(() => data(api.DELETE("/api/v1/projects/{project_id}/coverage/angles/{angle_id}", { params })))
          }
        >
          Remove angle
        </Button>
      </div>
      {others.length > 0 && (
        <Select
          size="small"
          placeholder="Merge another angle into this one…"
          value={null}
          onChange={(other: number | null) => other !== null && void merge(other)}
          options={others.map((a) => ({ value: a.id, label: `${a.number} ${a.name}` }))}
          aria-label={`Merge into angle ${angle.number}`}
          data-testid="merge"
        />
      )}
      <Split angle={angle} passes={passes} />
    </div>
  );
}

function Split({ angle, passes }: { angle: AngleView; passes: PassView[] }) {
  const { act, id } = useProject();
  const { name } = useWorkingPasses();
  const { judge } = usePassActions();
  const [going, setGoing] = useState<number[]>([]);
  const own = passes.filter((p, i) => passes.findIndex((q) => q.id === p.id) === i);
  if (!own.length) return null;
  const split = () =>
    act(() =>
      data(
        api.POST("/api/v1/projects/{project_id}/coverage/angles/{angle_id}/split", {
          params: { path: { project_id: id, angle_id: angle.id } },
          body: { passes: going, name: "" },
        }),
      ),
    );
  return (
    <>
      <Checkbox.Group value={going} onChange={setGoing} className={cx("split")}>
        {own.map((p) => (
          <div key={p.id} className={cx("split-line")}>
            <Checkbox value={p.id}>{name(p)}</Checkbox>
            {p.verdict === "rejected" && (
              <TextButton onClick={() => judge(p.id, { verdict: "" })}>rejected: bring back</TextButton>
            )}
          </div>
        ))}
      </Checkbox.Group>
      {own.length > 1 && (
        <Button
          size="small"
          disabled={!going.length || going.length === own.length}
          onClick={split}
          data-testid="split"
        >
          Split {going.length || ""} off into a new angle
        </Button>
      )}
    </>
  );
}
