import { Segmented, Select } from "antd";
import { api, data, type HitKind, type Unit } from "../../api/client";
import { HITS } from "../../api/facts";
import { useCommands } from "../../api/project";
import { Sensitivity } from "../../parts/Sensitivity";
import { UNITS } from "./pulls";
import styles from "./UnitChoice.module.css";
import { classes } from "../../parts/classes";

const cx = classes(styles);

/** Units that stand side by side; the others are in a list after them. */
const BESIDE = 6;
const OTHERS = UNITS.slice(BESIDE).map(({ value, label }) => ({ value, label }));

/** Choice of what cuts fall on, and what is dragged is pulled to. */
export function UnitChoice({ unit }: { unit: Unit }) {
  const { path, act } = useCommands();
  const choose = (chosen: Unit) =>
    act(() => data(api.PATCH("/api/v1/projects/{project_id}/settings", { params: path, body: { unit: chosen } })));
  const other = OTHERS.some((o) => o.value === unit);
  return (
    <span className={cx("units")}>
      <Segmented
        size="small"
        value={unit}
        onChange={(v) => void choose(v as Unit)}
        data-testid="unit"
        title="What cuts fall on"
        aria-label="What cuts fall on"
        options={UNITS.slice(0, BESIDE).map(({ value, label }) => ({ value, label }))}
      />
      <Select
        size="small"
        variant={other ? "filled" : "borderless"}
        value={other ? unit : null}
        placeholder="more"
        onChange={(v) => v && void choose(v)}
        options={OTHERS}
        popupMatchSelectWidth={false}
        aria-label="Cuts fall on words or hits"
        data-testid="unit-other"
      />
      {unit in HITS && <Sensitivity kind={unit as HitKind} width={70} />}
    </span>
  );
}
