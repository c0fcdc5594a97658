import { Select } from "antd";
import { useRef } from "react";
import { GRADE, LOOKS } from "../../../api/facts";
import { itemsOn } from "../../../api/lanes";
import { useEdit, useProject } from "../../../api/project";
import { useTables } from "../../../api/tables";
import { type CubeAsker, CubeFile } from "../../../parts/CubeFile";
import { NumberField } from "../../../parts/NumberField";
import { TextButton } from "../../../parts/TextButton";
import { classes } from "../../../parts/classes";
import { useClock } from "../../../player/clock";
import { passageOf } from "../passage";
import { filled, type Treatment } from "../treating/kinds";
import styles from "./Colour.module.css";
import { changed, type Grade, inRange, lookOf, REST, type Table, type Values } from "./grade";

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

/** Value of the choice that asks for a file. */
const ASK = "a file";

function Look({ first, end, name }: { first: number; end: number; name: string }) {
  const { operate } = useProject();
  const edit = useEdit();
  const { known } = useTables();
  const asker = useRef<CubeAsker>(null);
  const range = edit && itemsOn(edit, "ranges").find((r) => r.start === first && r.end === end);
  const treatments = filled(range?.treated);
  const at = treatments.findIndex((t) => t.kind === "grade" || t.kind === "table");
  const look = treatments[at] as Grade | Table | undefined;
  const write = (next: Treatment | null) => {
    const others = treatments.filter((_, n) => n !== at);
    const all = next ? [...others, next] : others;
    if (!range && !all.length) return;
    return operate({ op: "treat range", first, end, item: range?.id ?? null, treatments: all });
  };
  const strength = look?.strength ?? 0.5;
  const graded = (values: Values) => write({ kind: "grade", ...REST, ...values, strength, off: false } as Treatment);
  const through = (code: string) => write({ kind: "table", code, strength, off: false });
  const own = !look ? "none" : look.kind === "table" ? look.code : (lookOf(look, LOOKS) ?? "your own");
  const tables = known.map((t) => ({ value: t.code, label: t.name }));
  const gone = look?.kind === "table" && !known.some((t) => t.code === look.code);
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
          const chosen = LOOKS.find((l) => l.name === to);
          if (to === ASK) asker.current?.ask();
          else if (chosen) void graded(chosen.values);
          else if (tables.some((t) => t.value === to)) void through(to);
          else void write(null);
        }}
        options={[
          { value: "none", label: "none" },
          ...LOOKS.map((l) => ({ value: l.name, label: l.name })),
          ...(own === "your own" ? [{ value: own, label: own }] : []),
          ...tables,
          ...(gone ? [{ value: own, label: "a table that is gone" }] : []),
          { value: ASK, label: "choose a .cube…" },
        ]}
      />
      {look && (
        <>
          <NumberField
            value={Math.round(100 * strength)}
            min={100 * STRENGTH[0]}
            max={100 * STRENGTH[1]}
            step={5}
            suffix="%"
            change={(v) => void write({ ...look, strength: inRange("strength", v / 100) } as Treatment)}
            aria-label={`Strength of the look over ${name}`}
          />
          {look.kind === "grade" && (
            <TextButton href={cubeOf(changed(look))} download>
              as .cube
            </TextButton>
          )}
        </>
      )}
      <CubeFile
        ref={asker}
        chosen={(table) => through(table.code)}
        testId={name === "the film" ? "look-film-file" : "look-passage-file"}
      />
    </div>
  );
}

/** Address of a grade as a table of colours for other programs. */
export const cubeOf = (values: Values) => `/api/v1/grade.cube?values=${encodeURIComponent(JSON.stringify(values))}`;
