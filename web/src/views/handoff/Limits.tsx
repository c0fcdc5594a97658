import { api, data } from "../../api/client";
import { CHECK_LIMITS } from "../../api/facts";
import { useProject } from "../../api/project";
import { classes } from "../../parts/classes";
import { NumberField } from "../../parts/NumberField";
import { TextButton } from "../../parts/TextButton";
import styles from "./HandoffView.module.css";

const cx = classes(styles);

type Name = keyof typeof CHECK_LIMITS;

const WORDS: readonly { name: Name; words: string; unit: string; step: number }[] = [
  { name: "shortest_shot_s", words: "a shot is too short under", unit: "s", step: 0.05 },
  { name: "jump", words: "a cut jumps beyond", unit: "of 100", step: 1 },
  { name: "flashes", words: "flashes may harm beyond", unit: "a second", step: 0.5 },
  { name: "reading_cps", words: "a title is too quick beyond", unit: "letters a second", step: 1 },
];

/** Limits of the checks, which are the project's own. */
export function Limits() {
  const { state, act, path } = useProject();
  const set = (name: Name, value: number) =>
    act(() =>
      data(api.PATCH("/api/v1/projects/{project_id}/settings", { params: path, body: { limits: { [name]: value } } })),
    );
  return (
    <details className={cx("limits")} data-testid="check-limits">
      <summary>Limits of the checks</summary>
      {WORDS.map(({ name, words, unit, step }) => {
        const [usual, least, most] = CHECK_LIMITS[name];
        const now = state.limits[name] ?? usual;
        return (
          <div key={name} className={cx("limit")}>
            <span>{words}</span>
            <NumberField
              value={now}
              min={least}
              max={most}
              step={step}
              change={(value) => void set(name, value)}
              suffix={unit}
              aria-label={`${words}, ${unit}`}
            />
            {now !== usual && <TextButton onClick={() => void set(name, usual)}>as usual ({usual})</TextButton>}
          </div>
        );
      })}
    </details>
  );
}
