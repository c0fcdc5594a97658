import { useDraggable, useDroppable } from "@dnd-kit/core";
import { Popover, Tooltip } from "antd";
import { useEffect, useRef } from "react";
import type { AngleView, PassView, SectionView } from "../../api/client";
import { useProject } from "../../api/project";
import { barBeat } from "../../parts/format";
import { clock } from "../../player/clock";
import { hueOf } from "../../theme";
import { classes } from "../../parts/classes";
import { AngleForm } from "./AngleForm";
import { across, beginOf, gaps, inBeats, keyNote, stacked } from "./cells";
import styles from "./Matrix.module.css";
import { chooseCell, useChosen, usePassActions, useWorkingPasses } from "./useCells";
import { TextButton } from "../../parts/TextButton";

const cx = classes(styles);

/** Angles down, sections across: which pass feeds each, what else there is, and what is missing. */
export function Matrix() {
  const { state, rate } = useProject();
  const { passes, name } = useWorkingPasses();
  const comparing = useChosen((c) => c.cell !== null);
  const song = state.song;
  if (!song) return null;
  return (
    <div className={cx(comparing ? "matrix low" : "matrix")} data-testid="matrix">
      <div className={cx("matrix-head")}>
        <div className={cx("angle-head")} />
        <div className={cx("matrix-lane")}>
          {song.sections.map((s) => (
            <button
              type="button"
              key={s.id}
              className={cx("matrix-section")}
              style={across(s.start_s, s.end_s, song.seconds)}
              onClick={() => clock.seek(s.start_s)}
            >
              {s.name}
            </button>
          ))}
        </div>
      </div>
      {state.angles.map((a, i) => (
        <AngleRow key={a.id} angle={a} index={i} passes={passes.filter((p) => p.angle === a.id)} name={name} />
      ))}
      <NoAngle passes={passes.filter((p) => p.angle === null)} />
      {state.holes.length > 0 && (
        <div className={cx("matrix-holes")}>
          {state.holes.map(([a, b]) => {
            const [from, to] = [(a ?? 0) / rate, (b ?? 0) / rate];
            return (
              <button
                type="button"
                key={a}
                className={cx("matrix-hole")}
                style={across(from, to, song.seconds)}
                data-testid="hole"
                title={`No angle has picture from ${barBeat(song, from)} for ${inBeats(song, from, to)}. Click to see what could fill it.`}
                onClick={() => fillHole(a ?? 0, b ?? 0, rate)}
              >
                {to - from > 4 ? `hole: ${inBeats(song, from, to)}` : ""}
              </button>
            );
          })}
        </div>
      )}
    </div>
  );
}

function fillHole(first: number, end: number, rate: number): void {
  useChosen.setState({ cell: null, pass: null, hole: [first, end] });
  clock.seek((first + 0.001) / rate);
}

function AngleRow({
  angle,
  index,
  passes,
  name,
}: {
  angle: AngleView;
  index: number;
  passes: PassView[];
  name: (pass: PassView) => string;
}) {
  const { state, rate } = useProject();
  const { setNodeRef, isOver } = useDroppable({ id: `a${angle.id}` });
  const shown = passes.filter((p) => p.verdict !== "rejected");
  const rejected = new Set(passes.filter((p) => p.verdict === "rejected").map((p) => p.id)).size;
  const lanes = stacked(shown);
  const song = state.song;
  const count = new Set(shown.map((p) => p.id)).size;
  return (
    <div className={cx("angle-row")} data-testid={`angle-${angle.number}`}>
      <div className={cx("angle-head")}>
        <Popover
          trigger="click"
          placement="right"
          destroyOnHidden
          content={<AngleForm angle={angle} passes={passes} />}
          title={`Angle ${angle.number}`}
        >
          <button
            type="button"
            className={cx("angle-number")}
            style={{ ["--hue" as string]: hueOf(angle.hue) }}
            aria-label={`Describe angle ${angle.number}`}
          >
            {angle.number}
          </button>
        </Popover>
        <div className="grow">
          <Tooltip title={angle.because ? `Together because: ${angle.because}` : ""} placement="right">
            <div className={cx("angle-name")}>{angle.name}</div>
          </Tooltip>
          <div className="soft">
            {count} {count === 1 ? "pass" : "passes"}
            {rejected > 0 && `, ${rejected} rejected`}
          </div>
        </div>
      </div>
      <div
        ref={setNodeRef}
        className={cx(isOver ? "matrix-lane over" : "matrix-lane")}
        style={{ minHeight: 18 + 22 * Math.max(1, lanes.count) }}
      >
        {song?.sections.map((s, i) => (
          <CellButton key={s.id} angle={angle} index={index} section={s} at={i} />
        ))}
        {song?.sections.flatMap((s) =>
          gaps(angle, s, rate).map(([from, to]) => (
            <button
              type="button"
              key={`${s.id} ${from}`}
              className={cx("gap")}
              style={across(from, to, song.seconds)}
              title={`Angle ${angle.number} has no picture from ${barBeat(song, from)} for ${inBeats(song, from, to)}. Click to see what could fill it.`}
              aria-label={`Hole on angle ${angle.number} at ${barBeat(song, from)}, ${inBeats(song, from, to)}`}
              onClick={() => fillHole(Math.round(from * rate), Math.round(to * rate), rate)}
            />
          )),
        )}
        {shown.map((p) => (
          <PassBar
            key={`${p.id} ${p.song_start_s}`}
            pass={p}
            said={name(p)}
            angle={angle}
            lane={lanes.of.get(p) ?? 0}
          />
        ))}
      </div>
    </div>
  );
}

function CellButton(props: { angle: AngleView; index: number; section: SectionView; at: number }) {
  const { angle, index, section, at } = props;
  const { state } = useProject();
  const on = useChosen((c) => c.cell?.angle === index && c.cell.section === at);
  const key = keyNote(angle, state.keys[at]);
  const button = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    if (on) button.current?.scrollIntoView({ block: "nearest" });
  }, [on]);
  return (
    <button
      ref={button}
      type="button"
      className={cx(`cell${at % 2 ? " alt" : ""}${on ? " on" : ""}`)}
      style={across(section.start_s, section.end_s, state.song?.seconds ?? 1)}
      onClick={() => chooseCell({ angle: index, section: at }, section.start_s + 1e-3)}
      aria-label={`Angle ${angle.number} in ${section.name}`}
      aria-pressed={on}
      data-testid={`cell-${angle.number}-${at + 1}`}
    >
      {key && (
        <span className={cx("key")} title={`In ${section.name} this angle is on ${key}`}>
          {key}
        </span>
      )}
    </button>
  );
}

/** Locked passes that were taken off every angle: a click gives them one. */
function NoAngle({ passes }: { passes: PassView[] }) {
  const { state } = useProject();
  const { name } = useWorkingPasses();
  const { move } = usePassActions();
  const [first] = state.angles;
  if (!passes.length || !first) return null;
  return (
    <p className={cx("no-angle")}>
      On no angle:{" "}
      {passes.map((p) => (
        <TextButton key={`${p.id} ${p.song_start_s}`} onClick={() => move(p.id, first.id)}>
          {name(p)}
        </TextButton>
      ))}{" "}
      <span className="soft">a click puts one on angle {first.number}; drag it on from there</span>
    </p>
  );
}

function PassBar({ pass, said, angle, lane }: { pass: PassView; said: string; angle: AngleView; lane: number }) {
  const { state, rate } = useProject();
  const { feed } = usePassActions();
  const { attributes, listeners, setNodeRef, transform, isDragging } = useDraggable({ id: `p${pass.id}` });
  const song = state.song;
  const seconds = song?.seconds ?? 1;
  const feeding = angle.spans.filter(
    (s) => s.media === pass.media && s.start / rate < pass.song_end_s && s.end / rate > pass.song_start_s,
  );
  const choose = (event: React.MouseEvent) => {
    const box = (event.currentTarget as HTMLElement).parentElement?.getBoundingClientRect();
    if (box) chooseAt(((event.clientX - box.left) / box.width) * seconds);
  };
  const chooseAt = (at: number) => {
    if (!song) return;
    const index = song.sections.findIndex((s) => at < s.end_s);
    const section = song.sections[index];
    if (!section) return;
    const inside = clock.position() >= section.start_s && clock.position() < section.end_s;
    const cell = { angle: state.angles.findIndex((a) => a.id === angle.id), section: index };
    chooseCell(cell, inside ? undefined : beginOf(section, [pass]));
    useChosen.setState({ pass: pass.id });
    const feeds = feeding.some((f) => f.start / rate <= at && at < f.end / rate);
    if (feeds) return;
    const words = `${said} feeds angle ${angle.number} in ${section.name}`;
    void feed(angle.id, pass.id, section.start_s, section.end_s, words);
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: what makes it draggable makes it a button, too
    <div
      ref={setNodeRef}
      className={cx("pass")}
      data-testid={`pass-${said}`}
      {...listeners}
      {...attributes}
      onClick={choose}
      onKeyDown={(event) => {
        // By keys it is chosen in the section of the playhead, or where it begins.
        if (event.key !== "Enter") return;
        event.stopPropagation();
        const here = clock.position();
        chooseAt(here >= pass.song_start_s && here < pass.song_end_s ? here : pass.song_start_s + 0.01);
      }}
      title={`${said}${pass.note ? `: “${pass.note}”` : ""}. Click: it feeds angle ${angle.number} in that section. Drag: another angle.`}
      style={{
        ...across(pass.song_start_s, pass.song_end_s, seconds),
        top: 8 + 22 * lane,
        ["--hue" as string]: hueOf(angle.hue),
        transform: transform ? `translate(${transform.x}px, ${transform.y}px)` : undefined,
        zIndex: isDragging ? 5 : 2,
      }}
    >
      {feeding.map((s) => (
        <span key={s.start} className={cx("pass-fed")} style={fedPart(s.start / rate, s.end / rate, pass)} />
      ))}
      <span className={cx(feeding.length ? "pass-name fed" : "pass-name")}>
        {feeding.length ? "◉" : "○"} {said}
        {pass.verdict === "circled" && <i className={cx("ring")} title="circled" />}
      </span>
    </div>
  );
}

function fedPart(from: number, to: number, pass: PassView): React.CSSProperties {
  const length = pass.song_end_s - pass.song_start_s;
  const [a, b] = [Math.max(0, from - pass.song_start_s), Math.min(length, to - pass.song_start_s)];
  return { left: `${(100 * a) / length}%`, width: `${(100 * (b - a)) / length}%` };
}
