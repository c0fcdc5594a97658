import { Select } from "antd";
import { GRADE, LOOKS } from "../../../api/facts";
import { itemsOn } from "../../../api/lanes";
import { useEdit, useProject } from "../../../api/project";
import { NumberField } from "../../../parts/NumberField";
import { TextButton } from "../../../parts/TextButton";
import { classes } from "../../../parts/classes";
import { useClock } from "../../../player/clock";
import { passageOf } from "../passage";
import { filled, type Treatment } from "../treating/kinds";
import styles from "./Colour.module.css";
import { changed, type Grade, inRange, lookOf, REST, type Values } from "./grade";

const cx = classes(styles);

const STRENGTH = GRADE.strength ?? [0, 1];

/** Looks over the passage at the playhead and over the whole film, whatever is cut there, each at a strength. */
export function Looks({ frame }: { frame: number }) {
  const { state, rate } = useProject();
  const loop = useClock((c) => c.loop);
  const song = state.song;
  if (!song) return null;
  const passage = passageOf(song, loop, frame / rate, { rate, length: state.length });
  return (
    <section className={cx("paper")} aria-label="Look">
      <h3>Look</h3>
      <Look {...passage} />
      <Look first={0} end={state.length} name="the film" />
    </section>
  );
}

function Look({ first, end, name }: { first: number; end: number; name: string }) {
  const { operate } = useProject();
  const edit = useEdit();
  const range = edit && itemsOn(edit, "ranges").find((r) => r.start === first && r.end === end);
  const treatments = filled(range?.treated);
  const at = treatments.findIndex((t) => t.kind === "grade");
  const grade = treatments[at] as Grade | undefined;
  const write = (values: Values | null) => {
    const others = treatments.filter((_, n) => n !== at);
    const all = values ? [...others, { kind: "grade", ...REST, ...values, off: false } as Treatment] : others;
    if (!range && !all.length) return;
    void operate({ op: "treat range", first, end, item: range?.id ?? null, treatments: all });
  };
  const own = grade ? (lookOf(grade, LOOKS) ?? "your own") : "none";
  const strength = grade?.strength ?? 0.5;
  return (
    <div className={cx("look")}>
      over {name}{" "}
      <Select
        size="small"
        value={own}
        popupMatchSelectWidth={false}
        aria-label={`Look over ${name}`}
        data-testid={name === "the film" ? "look-film" : "look-passage"}
        onChange={(to) => {
          const look = LOOKS.find((l) => l.name === to);
          write(look ? { ...look.values, strength } : null);
        }}
        options={[
          { value: "none", label: "none" },
          ...LOOKS.map((l) => ({ value: l.name, label: l.name })),
          ...(own === "your own" ? [{ value: own, label: own }] : []),
        ]}
      />
      {grade && (
        <>
          <NumberField
            value={Math.round(100 * strength)}
            min={100 * STRENGTH[0]}
            max={100 * STRENGTH[1]}
            step={5}
            suffix="%"
            change={(v) => write({ ...changed(grade), strength: inRange("strength", v / 100) })}
            aria-label={`Strength of the look over ${name}`}
          />
          <TextButton href={cubeOf(changed(grade))} download>
            as .cube
          </TextButton>
        </>
      )}
    </div>
  );
}

/** Address of a grade as a table of colours for other programs. */
export const cubeOf = (values: Values) => `/api/v1/grade.cube?values=${encodeURIComponent(JSON.stringify(values))}`;
