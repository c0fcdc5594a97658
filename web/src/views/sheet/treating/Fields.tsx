import { Checkbox, ColorPicker, Input, Select } from "antd";
import { useEffect, useRef, useState } from "react";
import type { MediaView } from "../../../api/client";
import { GRADE, HIT_KINDS, HITS, within } from "../../../api/facts";
import { useTables } from "../../../api/tables";
import { type CubeAsker, CubeFile } from "../../../parts/CubeFile";
import { NumberField } from "../../../parts/NumberField";
import { type Drag, follow } from "../../../parts/drag";
import { classes } from "../../../parts/classes";
import { type Shape, shaped } from "../../../player/chain";
import {
  dragged,
  type Field,
  type Length,
  type On,
  offered,
  type Place,
  placeFrom,
  placeText,
  type Treatment,
  choicesOf,
} from "./kinds";
import { Frames, isFramed } from "./Frames";
import styles from "./Treating.module.css";
import { useRoving } from "../../../parts/roving";
import { TextButton } from "../../../parts/TextButton";

const cx = classes(styles);

/** Distance that a word is dragged for one step, in pixels. */
const DRAG_PX = 6;
const UNITS = ["frames", "beats", "bars"].map((value) => ({ value, label: value }));
const WHAT: { value: On["what"]; label: string }[] = [
  { value: "beat", label: "beats" },
  { value: "half beat", label: "half beats" },
  { value: "bar", label: "bars" },
  { value: "phrase", label: "phrases" },
  { value: "mark", label: "marks" },
  ...HIT_KINDS.map((value) => ({ value, label: HITS[value].many })),
];

interface Props {
  treatment: Treatment;
  change: (treatment: Treatment) => Promise<unknown>;
  /** Show what it would be, while a value is dragged; nothing: as it is. */
  preview: (treatment: Treatment | null) => void;
  /** The clip, for its seconds and its marked moment. */
  clip: MediaView | undefined;
  here: Place;
}

/** Everything of a treatment that can be said, as a sentence of fields; each is written once. */
export function Fields({ treatment: written, change, preview, clip, here }: Props) {
  const [trial, setTrial] = useState<Treatment | null>(null);
  const treatment = trial ?? written;
  const { fields, says } = offered(treatment.kind);
  /** A number is dragged by its word, to the right for more: shown at once, written once. */
  const grab = (field: Field) => (event: React.PointerEvent<HTMLElement>) => {
    let now: Treatment | null = null;
    const move = ({ dx, event: e }: Drag) => {
      const next = dragged(written, field, Math.round(dx / DRAG_PX), e.shiftKey);
      if (JSON.stringify(next) === JSON.stringify(now ?? written)) return;
      now = next;
      setTrial(next);
      preview(next);
    };
    follow(event, move, (last) => {
      if (last && now && JSON.stringify(now) !== JSON.stringify(written))
        void change(now).finally(() => setTrial(null));
      else {
        setTrial(null);
        preview(null);
      }
    });
  };
  const set = (name: string, value: unknown) => void change({ ...treatment, [name]: value } as Treatment);
  return (
    <div className={cx("sentence")} data-testid="treatment-fields">
      {!fields.length && <span className="soft">{says}</span>}
      {fields
        .filter((f) => !f.less?.(treatment))
        .map((field) => (
          <span key={`${field.name} ${field.type}`} className={cx("field")} data-testid={`field-${field.name}`}>
            {dragged(treatment, field, 1, false) === treatment ? (
              <span className="soft">{field.label}</span>
            ) : (
              <span
                className={cx("drag")}
                onPointerDown={grab(field)}
                title="Drag to the right for more, to the left for less; Shift: in small steps"
              >
                {field.label}
              </span>
            )}
            <One
              field={field}
              treatment={treatment}
              value={treatment[field.name as keyof Treatment] as unknown}
              set={(value) => set(field.name, value)}
              clip={clip}
              here={here}
            />
          </span>
        ))}
      {isFramed(treatment) && <Frames treatment={treatment} change={change} preview={preview} />}
      {treatment.kind === "moment" && (
        <TextButton
          onClick={() =>
            void change(
              treatment.then_s === null
                ? {
                    ...treatment,
                    then_s: treatment.moment_s + 1,
                    then_at: { ...treatment.at, bar: treatment.at.bar + 1 },
                  }
                : { ...treatment, then_s: null, then_at: null },
            )
          }
        >
          {treatment.then_s === null ? "and a second moment" : "one moment only"}
        </TextButton>
      )}
      {treatment.kind === "ramp" && <Solved treatment={treatment} change={(t) => void change(t)} clip={clip} />}
    </div>
  );
}

interface OneProps {
  field: Field;
  treatment: Treatment;
  value: unknown;
  set: (value: unknown) => void;
  clip: MediaView | undefined;
  here: Place;
}

function One({ field, treatment, value, set, clip, here }: OneProps) {
  const label = field.label;
  switch (field.type) {
    case "choice":
      return (
        <Select
          size="small"
          value={value as string}
          onChange={set}
          options={choicesOf(treatment.kind, field.name).map((v) => ({
            value: v,
            label: field.name === "shape" ? <ShapeWord shape={v as Shape} /> : v,
          }))}
          popupMatchSelectWidth={false}
          aria-label={label}
        />
      );
    case "yes":
      return <Checkbox checked={value as boolean} onChange={(e) => set(e.target.checked)} aria-label={label} />;
    case "colour":
      return (
        <ColorPicker
          size="small"
          value={value as string}
          disabledAlpha
          onChangeComplete={(c) => set(c.toHexString().slice(0, 7))}
        />
      );
    case "length":
      return <LengthField value={value as Length | null} set={set} label={label} none={field.name === "by"} />;
    case "on":
      return (
        <OnField
          value={value as On | null}
          set={set}
          none={treatment.kind === "freeze" || treatment.kind === "stutter"}
        />
      );
    case "place":
      return (
        <PlaceField
          value={value as Place | null}
          set={set}
          label={label}
          here={here}
          none={field.name === "moment_at"}
        />
      );
    case "places": {
      const places = value as Place[];
      if (!places.length && treatment.kind === "ramp" && treatment.speeds.length === 2)
        return <PlaceField value={null} set={(p) => p && set([p])} label={label} here={here} empty="the middle" none />;
      if (!places.length) return <span>even thirds of the shot</span>;
      return places.map((place, k) => (
        <PlaceField
          // biome-ignore lint/suspicious/noArrayIndexKey: a place is known by its number
          key={k}
          value={place}
          set={(p) => set(p ? places.map((q, i) => (i === k ? p : q)) : [])}
          label={`${label} ${k + 1}`}
          here={here}
          empty="the middle"
          none={places.length === 1}
        />
      ));
    }
    case "cube":
      return <CubeField value={value as string} set={set} label={label} />;
    case "pattern":
      return <PatternField value={value as string} set={set} label={label} />;
    case "speeds":
      return (value as number[]).map((speed, k) => (
        <NumberField
          // biome-ignore lint/suspicious/noArrayIndexKey: a speed is known by its number
          key={k}
          value={speed}
          change={(v) => set((value as number[]).map((w, i) => (i === k ? v : w)))}
          {...within("ramp")}
          step={0.05}
          suffix="×"
          aria-label={`speed ${k + 1}`}
        />
      ));
    default: {
      const share = field.type === "percent" || field.type === "control";
      const suffix = {
        times: "×",
        seconds: "s",
        degrees: "°",
        percent: "%",
        number: ": 1",
        count: "",
        stops: "stops",
        control: "",
      }[field.type];
      const limits = treatment.kind === "grade" ? GRADE[field.name] : undefined;
      const number =
        (value as number | null) ?? (field.type === "seconds" ? (clip?.said.moment_s ?? clip?.seconds ?? 0) : 0);
      return (
        <NumberField
          value={share ? Math.round(number * 1e4) / 100 : number}
          change={(v) => set(share ? v / 100 : field.type === "count" ? Math.max(1, Math.round(v)) : v)}
          {...(limits ? { min: (share ? 100 : 1) * limits[0], max: (share ? 100 : 1) * limits[1] } : {})}
          step={share || field.type === "count" ? 1 : field.type === "stops" ? 0.1 : 0.05}
          precision={field.type === "count" ? 0 : undefined}
          suffix={suffix}
          aria-label={label}
        />
      );
    }
  }
}

/** A table of colours of the project, or another that is brought. */
function CubeField({ value, set, label }: { value: string; set: (v: string) => void; label: string }) {
  const { known } = useTables();
  const asker = useRef<CubeAsker>(null);
  const tables = known.map((t) => ({ value: t.code, label: t.name }));
  return (
    <>
      <Select
        size="small"
        value={known.some((t) => t.code === value) ? value : null}
        placeholder={value ? "a table that is gone" : "choose one"}
        popupMatchSelectWidth={false}
        aria-label={label}
        data-testid="cube"
        onChange={(to) => (to ? set(to) : asker.current?.ask())}
        options={[...tables, { value: "", label: "choose a .cube…" }]}
      />
      <CubeFile ref={asker} chosen={(table) => set(table.code)} testId="cube-file" />
    </>
  );
}

/** Most frames of a pattern. */
const LONGEST = 40;

/** On and off, frame by frame: squares that are clicked; arrows walk them, Space switches one. */
function PatternField({ value, set, label }: { value: string; set: (v: string) => void; label: string }) {
  const place = useRef<HTMLSpanElement>(null);
  const roving = useRoving(place, "button");
  const switched = (n: number) => set([...value].map((c, i) => (i === n ? (c === "1" ? "0" : "1") : c)).join(""));
  const another = () =>
    set([...value].map((_, i) => (i === value.length - 1 || Math.random() > 0.45 ? "1" : "0")).join(""));
  return (
    <>
      <span ref={place} className={cx("pattern")} role="group" aria-label={label} data-testid="pattern" {...roving}>
        {[...value].map((c, n) => (
          <button
            // biome-ignore lint/suspicious/noArrayIndexKey: a frame is known by its number
            key={n}
            type="button"
            className={cx(c === "1" ? "square lit" : "square")}
            aria-pressed={c === "1"}
            aria-label={`frame ${n + 1}`}
            onClick={() => switched(n)}
          />
        ))}
      </span>
      <TextButton onClick={() => set(`${value}1`)} disabled={value.length >= LONGEST} title="One frame more">
        +
      </TextButton>
      <TextButton onClick={() => set(value.slice(0, -1))} disabled={value.length < 2} title="One frame less">
        −
      </TextButton>
      <TextButton onClick={another} title="Another pattern by chance; what it is stays written">
        another
      </TextButton>
    </>
  );
}

/** A shape's name with its curve. */
function ShapeWord({ shape }: { shape: Shape }) {
  const points = Array.from({ length: 13 }, (_, k) => `${1 + k},${(12 - 11 * shaped(shape, k / 12)).toFixed(1)}`);
  return (
    <span className={cx("shape")}>
      <svg width={14} height={13} aria-hidden="true">
        <polyline points={points.join(" ")} />
      </svg>
      {shape}
    </span>
  );
}

function LengthField({
  value,
  set,
  label,
  none,
}: {
  value: Length | null;
  set: (v: Length | null) => void;
  label: string;
  none: boolean;
}) {
  const units = none ? [...UNITS, { value: "next", label: "the next movement" }] : UNITS;
  return (
    <>
      {value && (
        <NumberField
          value={value.value}
          change={(v) => set({ ...value, value: Math.max(0, v) })}
          min={0}
          step={value.unit === "frames" ? 1 : 0.25}
          aria-label={label}
        />
      )}
      <Select
        size="small"
        value={value?.unit ?? "next"}
        onChange={(unit) => set(unit === "next" ? null : { value: value?.value ?? 1, unit: unit as "beats" })}
        options={units}
        popupMatchSelectWidth={false}
        aria-label={`${label}, counted in`}
      />
    </>
  );
}

function OnField({ value, set, none }: { value: On | null; set: (v: On | null) => void; none: boolean }) {
  const what = none ? [{ value: "", label: "nothing: once" }, ...WHAT] : WHAT;
  const hits = value && value.what in HITS;
  return (
    <>
      <Select
        size="small"
        value={value?.what ?? ""}
        onChange={(w) => set(w ? { above: 0.5, every: 1, skip: 0, ...value, what: w as On["what"] } : null)}
        options={what}
        popupMatchSelectWidth={false}
        aria-label="on what"
      />
      {hits && (
        <NumberField
          value={Math.round(value.above * 100)}
          change={(v) => set({ ...value, above: v / 100 })}
          {...within("share", 100)}
          suffix="% strong"
          aria-label="at least so strong"
          className={cx("wide")}
        />
      )}
      {value && (
        <Select
          size="small"
          value={value.every}
          onChange={(every) => set({ ...value, every })}
          options={[1, 2, 3, 4, 8].map((n) => ({ value: n, label: n === 1 ? "each" : `one of ${n}` }))}
          popupMatchSelectWidth={false}
          aria-label="of how many"
        />
      )}
    </>
  );
}

function PlaceField({
  value,
  set,
  label,
  here,
  none,
  empty = "the end",
}: {
  value: Place | null;
  set: (v: Place | null) => void;
  label: string;
  here: Place;
  none?: boolean;
  /** Meaning of no place, in words. */
  empty?: string;
}) {
  const [typed, setTyped] = useState(value ? placeText(value) : "");
  useEffect(() => setTyped(value ? placeText(value) : ""), [value]);
  const commit = () => {
    const place = placeFrom(typed);
    if (!place && !(none && !typed.trim())) setTyped(value ? placeText(value) : "");
    else if (placeText(place ?? here) !== (value ? placeText(value) : "")) set(place);
  };
  return (
    <Input
      size="small"
      className={cx("place")}
      value={typed}
      placeholder={none ? empty : "bar.beat"}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={commit}
      onPressEnter={commit}
      aria-label={`${label} (bar.beat)`}
      suffix={
        <button
          type="button"
          className={cx("here")}
          onClick={() => set(here)}
          title={`The beat at the playhead, ${placeText(here)}`}
          tabIndex={-1}
        >
          <svg width={11} height={11} viewBox="0 0 11 11" aria-hidden="true">
            <path d="M5.5 0 V11 M2.5 3 L5.5 0 L8.5 3" stroke="currentColor" fill="none" />
          </svg>
        </button>
      }
    />
  );
}

/** The speed of a ramp that is solved for, so that a moment of the clip falls on a place, or the shot ends with it. */
function Solved({
  treatment,
  change,
  clip,
}: {
  treatment: Extract<Treatment, { kind: "ramp" }>;
  change: (t: Treatment) => void;
  clip: MediaView | undefined;
}) {
  if (!clip) return null;
  const options = [
    { value: -1, label: "as they stand" },
    ...treatment.speeds.map((_, k) => ({ value: k, label: `find speed ${k + 1}` })),
  ];
  return (
    <span className={cx("field")}>
      <span className="soft">speeds</span>
      <Select
        size="small"
        value={treatment.solved ?? -1}
        onChange={(k) =>
          change({
            ...treatment,
            solved: k < 0 ? null : k,
            moment_s: k < 0 ? null : (treatment.moment_s ?? clip.said.moment_s ?? clip.seconds),
          })
        }
        options={options}
        popupMatchSelectWidth={false}
        aria-label="which speed is found"
      />
      <TextButton
        onClick={() => {
          const three = treatment.speeds.length === 2;
          const [a = 1, b = 1] = treatment.speeds;
          change({
            ...treatment,
            speeds: three ? [a, b, a] : [a, b],
            at: three ? [] : treatment.at.slice(0, 1),
            solved: null,
          });
        }}
      >
        {treatment.speeds.length === 2 ? "and back again" : "one change only"}
      </TextButton>
    </span>
  );
}
