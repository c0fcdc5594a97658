import { useState, useSyncExternalStore } from "react";
import { CURVES, GRADE } from "../../../api/facts";
import { classes } from "../../../parts/classes";
import { follow } from "../../../parts/drag";
import { useStepped } from "../../../parts/stepped";
import { TextButton } from "../../../parts/TextButton";
import { luts } from "../../../player/luts";
import styles from "./Colour.module.css";
import { diagonal, inRange, type Values } from "./grade";

const cx = classes(styles);
/** Side of a square in its own units. */
const SIDE = 100;

interface Props {
  values: Values;
  /** Written once it is let go. */
  change: (changed: Values) => unknown;
  /** Shown while it is dragged; null once it is let go. */
  preview: (changed: Values | null) => void;
}

/** Curves of coded values: of all three colours and of each, bent at five points. */
export function Curves(props: Props) {
  return (
    <div className={cx("curves")}>
      {CURVES.of.map((of) => (
        <Curve key={of} of={of} {...props} />
      ))}
    </div>
  );
}

/** The table of a curve alone, as the core has it: what is drawn is what acts. */
function useDrawn(values: Values) {
  return useSyncExternalStore(
    (told) => luts.subscribe(told),
    () => luts.get("grade", values) ?? null,
  );
}

function Curve({ of, values, change, preview }: Props & { of: (typeof CURVES.of)[number] }) {
  const [held, setHeld] = useState<Values>({});
  const names = CURVES.at.map((at) => `${of}_${at}`);
  const now = Object.fromEntries(names.map((name) => [name, held[name] ?? values[name] ?? 0]));
  const bent = names.some((name) => now[name]);
  const lut = useDrawn(now);
  const channel = Math.max(0, CURVES.of.indexOf(of) - 1);
  const line = bent && lut ? diagonal(lut, channel) : [0, 1];
  const path = line.map((y, n) => `${n ? "L" : "M"}${(SIDE * n) / (line.length - 1)} ${SIDE * (1 - y)}`).join(" ");
  return (
    <div className={cx(`curve ${of}`)}>
      <div className={cx("head")}>
        <span>{of}</span>
        {bent && (
          <TextButton onClick={() => change(Object.fromEntries(names.map((name) => [name, 0])))}>to rest</TextButton>
        )}
      </div>
      <svg viewBox={`-6 -6 ${SIDE + 12} ${SIDE + 12}`} aria-label={`Curve of ${of}`} role="group">
        <path
          className={cx("grid")}
          d="M0 0 H100 V100 H0 Z M25 0 V100 M50 0 V100 M75 0 V100 M0 25 H100 M0 50 H100 M0 75 H100"
        />
        <path className={cx("line-of")} d={path} />
        {CURVES.at.map((at) => (
          <Bend
            key={at}
            name={`${of}_${at}`}
            at={at}
            value={now[`${of}_${at}`] ?? 0}
            hold={(value) => {
              setHeld(value === null ? {} : { [`${of}_${at}`]: value });
              preview(value === null ? null : { [`${of}_${at}`]: value });
            }}
            change={(value) => change({ [`${of}_${at}`]: value })}
          />
        ))}
      </svg>
    </div>
  );
}

interface BendProps {
  name: string;
  at: number;
  value: number;
  hold: (value: number | null) => void;
  change: (value: number) => unknown;
}

/** A point of a curve: dragged up and down, walked by arrows, put to rest by Delete. */
function Bend({ name, at, value, hold, change }: BendProps) {
  const [least, most] = GRADE[name] ?? [0, 0];
  const step = useStepped(value, change);
  const drag = (down: React.PointerEvent<SVGElement>) => {
    const tall = (down.currentTarget.ownerSVGElement as SVGElement).getBoundingClientRect().height;
    let last = value;
    follow(
      down,
      ({ dy }) => {
        last = inRange(name, value - (dy * (SIDE + 12)) / tall / SIDE);
        hold(last);
      },
      (end) => {
        hold(null);
        if (end && last !== value) change(last);
      },
    );
  };
  return (
    <circle
      role="slider"
      tabIndex={0}
      aria-label={`${name.replace("_", " at ")} %`}
      aria-valuemin={least}
      aria-valuemax={most}
      aria-valuenow={value}
      cx={at}
      cy={SIDE * (1 - Math.min(1, Math.max(0, at / 100 + value)))}
      r={5}
      onPointerDown={drag}
      onDoubleClick={() => value && change(0)}
      onKeyDown={(event) => {
        const by = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key];
        if (by) void step((from) => inRange(name, from + by * (event.shiftKey ? 0.05 : 0.01)));
        else if (event.key === "Delete" || event.key === "Home") change(0);
        else return;
        event.preventDefault();
        event.stopPropagation();
      }}
      data-testid={`bend-${name}`}
    />
  );
}
