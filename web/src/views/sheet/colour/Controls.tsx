import { useState } from "react";
import { GRADE } from "../../../api/facts";
import { NumberField } from "../../../parts/NumberField";
import { classes } from "../../../parts/classes";
import { follow } from "../../../parts/drag";
import { useStepped } from "../../../parts/stepped";
import styles from "./Colour.module.css";
import { along, type Control, CONTROLS, inRange, REST, stepOf, type Values } from "./grade";

const cx = classes(styles);

interface Props {
  values: Values;
  /** Written once it is let go or typed. */
  change: (name: string, value: number) => unknown;
  /** Shown while it is dragged; null once it is let go. */
  preview: (name: string, value: number | null) => void;
}

/** The controls of a grade: dragged by their words, walked by arrows, typed. */
export function Controls(props: Props) {
  return (
    <div className={cx("controls")}>
      {CONTROLS.map((column) => (
        <div key={column[0]?.name}>
          {column.map((control) => (
            <Row key={control.name} control={control} {...props} />
          ))}
        </div>
      ))}
    </div>
  );
}

const ARROWS: Readonly<Record<string, number>> = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 };

function Row({ control, values, change, preview }: Props & { control: Control }) {
  const { name, word, percent, unit } = control;
  const [held, setHeld] = useState<number | null>(null);
  const rest = REST[name] ?? 0;
  const now = held ?? values[name] ?? rest;
  const [least, most] = GRADE[name] ?? [0, 1];
  const step = useStepped(now, (value) => change(name, value));
  const times = percent ? 100 : 1;
  const [from, to] = [along(name, rest), along(name, now)].sort((a, b) => a - b) as [number, number];
  const drag = (down: React.PointerEvent<HTMLElement>) => {
    const begun = now;
    let last = begun;
    follow(
      down,
      ({ dx }) => {
        last = inRange(name, begun + dx * stepOf(name) * 0.5);
        setHeld(last);
        preview(name, last);
      },
      (end) => {
        setHeld(null);
        if (end && last !== begun) change(name, last);
        else preview(name, null);
      },
    );
  };
  return (
    <div className={cx("control")}>
      <span
        className={cx("word")}
        role="slider"
        tabIndex={0}
        aria-label={word}
        aria-valuemin={least}
        aria-valuemax={most}
        aria-valuenow={now}
        title="Drag it, or press the arrows; a double click puts it to rest"
        onPointerDown={drag}
        onDoubleClick={() => now !== rest && change(name, rest)}
        onKeyDown={(event) => {
          const by = ARROWS[event.key];
          if (by) void step((from) => inRange(name, from + by * stepOf(name) * (event.shiftKey ? 5 : 1)));
          else if (event.key === "Delete" || event.key === "Home") change(name, rest);
          else return;
          event.preventDefault();
          event.stopPropagation();
        }}
        data-testid={`control-${name}`}
      >
        {word}
      </span>
      <svg className={cx("track")} viewBox="0 0 100 12" preserveAspectRatio="none" aria-hidden="true">
        <line x1="0" x2="100" y1="6" y2="6" />
        <rect x={100 * from} width={Math.max(0, 100 * (to - from))} y="3" height="6" />
        <line className={cx("stands")} x1={100 * along(name, now)} x2={100 * along(name, now)} y1="0" y2="12" />
      </svg>
      <NumberField
        value={Math.round(now * times * 1000) / 1000}
        change={(v) => change(name, inRange(name, v / times))}
        min={least * times}
        max={most * times}
        step={percent ? 1 : stepOf(name)}
        suffix={percent ? "%" : unit}
        controls={false}
        aria-label={`${word}, typed`}
      />
    </div>
  );
}
