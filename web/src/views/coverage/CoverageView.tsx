import {
  DndContext,
  type DragEndEvent,
  PointerSensor,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import { Button, Input, Popover, Segmented } from "antd";
import { useState } from "react";
import { type AngleView, api, data, type PassView } from "../../api/client";
import { useEdit, useProject } from "../../api/project";
import { EmptyPage, GoToSong } from "../../parts/EmptyPage";
import { ClipCard } from "../../parts/Clips";
import { FilePicker } from "../../parts/FilePicker";
import { keptPieces } from "../../parts/format";
import { clock } from "../../player/clock";
import { hueOf, hues } from "../../theme";
import styles from "./CoverageView.module.css";
import { classes } from "../../parts/classes";

const cx = classes(styles);

/** Angles down, sections across: which pass feeds each, and where there is no picture. */
export function CoverageView() {
  const { state, act, id, path } = useProject();
  const edit = useEdit();
  const [picking, setPicking] = useState<"take" | "broll" | null>(null);
  const [shown, setShown] = useState<"all" | "unused">("all");
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 5 } }));
  const song = state.song;
  if (!song)
    return (
      <EmptyPage title="Coverage follows from the song and the takes. Add the song first.">
        <GoToSong />
      </EmptyPage>
    );
  const passes = state.takes
    .flatMap((t) => t.passes)
    .filter((p) => p.status === "locked")
    .flatMap((p) => workingPasses(p, state.kept));
  const clips = state.media.filter((m) => m.kind === "broll");
  const used = new Set([...(edit?.shots ?? []), ...(edit?.cutaways ?? [])].map((s) => s.source.media));
  const drop = (event: DragEndEvent) => {
    const pass = Number(String(event.active.id).slice(1));
    const angle = event.over ? Number(String(event.over.id).slice(1)) : null;
    if (angle === null || passes.find((p) => p.id === pass)?.angle === angle) return;
    void act(() =>
      data(
        api.PUT("/api/projects/{project_id}/coverage/passes/{pass_id}/angle", {
          params: { path: { project_id: id, pass_id: pass } },
          body: { angle },
        }),
      ),
    );
  };
  const add = () =>
    act(() => data(api.POST("/api/projects/{project_id}/coverage/angles", { params: path, body: { name: "" } })));
  const unplaced = passes.filter((p) => p.angle === null);
  return (
    <div className={cx("coverage")}>
      <div className="tools">
        <b>Angles by section</b>
        <span className="soft grow">
          drag a pass to another angle; click one to let it feed its angle in that section
        </span>
        <Button onClick={() => setPicking("take")}>Add takes…</Button>
        <Button onClick={add} disabled={state.angles.length >= 9}>
          Add angle
        </Button>
      </div>
      <DndContext sensors={sensors} onDragEnd={drop}>
        <div className={cx("matrix")} data-testid="matrix">
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
          {!state.angles.length && (
            <EmptyPage title="No angle yet: a take becomes an angle when it is locked on the Line-up." />
          )}
          {state.angles.map((a, i) => (
            <AngleRow
              key={a.id}
              angle={a}
              passes={passes.filter((p) => p.angle === a.id)}
              first={i === 0}
              last={i === state.angles.length - 1}
            />
          ))}
          {unplaced.length > 0 && (
            <p className="soft">{unplaced.length} locked passes belong to no angle: all nine are taken.</p>
          )}
          <div className={cx("matrix-holes")}>
            {state.holes.map(([a, b]) => {
              const [from, to] = [
                ((a ?? 0) * state.rate_den) / state.rate_num,
                ((b ?? 0) * state.rate_den) / state.rate_num,
              ];
              return (
                <button
                  type="button"
                  key={a}
                  className={cx("matrix-hole")}
                  style={across(from, to, song.seconds)}
                  onClick={() => clock.seek(from)}
                >
                  {to - from > 2 ? `hole ${(to - from).toFixed(1)} s` : ""}
                </button>
              );
            })}
          </div>
        </div>
      </DndContext>
      <div className={cx("tools ruled")}>
        <b>B-roll</b>
        <Segmented
          size="small"
          value={shown}
          onChange={(v) => setShown(v as typeof shown)}
          options={[
            { label: `all ${clips.length}`, value: "all" },
            { label: `unused ${clips.filter((c) => !used.has(c.id)).length}`, value: "unused" },
          ]}
        />
        <span className="soft grow">click a clip to set its in and out</span>
        <Button onClick={() => setPicking("broll")} data-testid="add-broll">
          Add B-roll…
        </Button>
      </div>
      <div className={cx("clip-grid")}>
        {clips
          .filter((c) => shown === "all" || !used.has(c.id))
          .map((c) => (
            <ClipCard key={c.id} clip={c} width={176} />
          ))}
        {!clips.length && (
          <p className="soft">No B-roll yet: clips that are not tied to the song, for cutaways and holes.</p>
        )}
      </div>
      <FilePicker kind={picking ?? "take"} open={picking !== null} close={() => setPicking(null)} />
    </div>
  );
}

function across(from: number, to: number, seconds: number): React.CSSProperties {
  const [a, b] = [Math.max(0, from), Math.min(seconds, to)];
  return { left: `${(100 * a) / seconds}%`, width: `${(100 * Math.max(0, b - a)) / seconds}%` };
}

function AngleRow({
  angle,
  passes,
  first,
  last,
}: {
  angle: AngleView;
  passes: PassView[];
  first: boolean;
  last: boolean;
}) {
  const { state, act, path } = useProject();
  const { setNodeRef, isOver } = useDroppable({ id: `a${angle.id}` });
  const seconds = state.song?.seconds ?? 1;
  const lanes = stacked(passes);
  const move = (by: number) => {
    const ids = state.angles.map((a) => a.id);
    const i = ids.indexOf(angle.id);
    [ids[i], ids[i + by]] = [ids[i + by] as number, ids[i] as number];
    void act(() => data(api.PUT("/api/projects/{project_id}/coverage/order", { params: path, body: { ids } })));
  };
  return (
    <div className={cx("angle-row")} data-testid={`angle-${angle.number}`}>
      <div className={cx("angle-head")}>
        <Popover
          trigger="click"
          placement="right"
          content={<AngleForm angle={angle} />}
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
          <div className={cx("angle-name")}>{angle.name}</div>
          <div className="soft">
            {passes.length} {passes.length === 1 ? "pass" : "passes"}
          </div>
        </div>
        <span className={cx("angle-order")}>
          <button
            type="button"
            className={cx("tiny")}
            disabled={first}
            onClick={() => move(-1)}
            aria-label={`Move angle ${angle.number} up`}
          >
            ▴
          </button>
          <button
            type="button"
            className={cx("tiny")}
            disabled={last}
            onClick={() => move(1)}
            aria-label={`Move angle ${angle.number} down`}
          >
            ▾
          </button>
        </span>
      </div>
      <div
        ref={setNodeRef}
        className={cx(isOver ? "matrix-lane over" : "matrix-lane")}
        style={{ minHeight: 18 + 22 * Math.max(1, lanes.count) }}
      >
        {state.song?.sections.map((s, i) => (
          <span
            key={s.id}
            className={cx(i % 2 ? "matrix-band alt" : "matrix-band")}
            style={across(s.start_s, s.end_s, seconds)}
          />
        ))}
        {passes.map((p) => (
          <PassBar key={`${p.id} ${p.song_start_s}`} pass={p} angle={angle} lane={lanes.of.get(p.id) ?? 0} />
        ))}
      </div>
    </div>
  );
}

/** What is kept of a pass, on the clock of the working song; a piece for each kept range that it reaches into. */
function workingPasses(pass: PassView, kept: readonly number[][]): PassView[] {
  return keptPieces(kept, pass.song_start_s, pass.song_end_s).map(({ from, to, at }) => ({
    ...pass,
    song_start_s: at,
    song_end_s: at + to - from,
    take_start_s: pass.take_start_s + (from - pass.song_start_s) / pass.rate,
    take_end_s: pass.take_start_s + (to - pass.song_start_s) / pass.rate,
  }));
}

/** Put passes that overlap on lanes of their own. */
function stacked(passes: PassView[]): { of: Map<number, number>; count: number } {
  const ends: number[] = [];
  const of = new Map<number, number>();
  for (const p of [...passes].sort((a, b) => a.song_start_s - b.song_start_s)) {
    let lane = ends.findIndex((e) => e <= p.song_start_s + 0.01);
    if (lane < 0) lane = ends.length;
    ends[lane] = p.song_end_s;
    of.set(p.id, lane);
  }
  return { of, count: ends.length };
}

function PassBar({ pass, angle, lane }: { pass: PassView; angle: AngleView; lane: number }) {
  const { state, act, path } = useProject();
  const { attributes, listeners, setNodeRef, transform, isDragging } = useDraggable({ id: `p${pass.id}` });
  const file = state.media.find((m) => m.id === pass.media);
  const siblings = state.takes.find((t) => t.media === pass.media)?.passes ?? [];
  const name = `${file?.name ?? ""}${siblings.length > 1 ? ` p${siblings.findIndex((p) => p.id === pass.id) + 1}` : ""}`;
  const rate = state.rate_num / state.rate_den;
  const seconds = state.song?.seconds ?? 1;
  const feeding = angle.spans.filter(
    (s) => s.media === pass.media && s.start / rate < pass.song_end_s && s.end / rate > pass.song_start_s,
  );
  const feed = (event: React.MouseEvent) => {
    const box = (event.currentTarget as HTMLElement).parentElement?.getBoundingClientRect();
    if (!box) return;
    const at = ((event.clientX - box.left) / box.width) * seconds;
    const section = state.song?.sections.find((s) => at < s.end_s) ?? state.song?.sections[0];
    if (!section) return;
    const body = { angle: angle.id, start_s: section.start_s, end_s: section.end_s, pass_id: pass.id };
    void act(
      () => data(api.POST("/api/projects/{project_id}/coverage/feeds", { params: path, body })),
      `${name} feeds angle ${angle.number} in ${section.name}`,
    );
  };
  const whole = across(pass.song_start_s, pass.song_end_s, seconds);
  return (
    <div
      ref={setNodeRef}
      className={cx("pass")}
      data-testid={`pass-${name}`}
      {...listeners}
      {...attributes}
      onClick={feed}
      title={`${name}: click to let it feed angle ${angle.number} in that section; drag to another angle`}
      style={{
        ...whole,
        top: 8 + 22 * lane,
        ["--hue" as string]: hueOf(angle.hue),
        transform: transform ? `translate(${transform.x}px, ${transform.y}px)` : undefined,
        zIndex: isDragging ? 5 : 1,
      }}
    >
      {feeding.map((s) => (
        <span key={s.start} className={cx("pass-fed")} style={fedPart(s.start / rate, s.end / rate, pass)} />
      ))}
      <span className={cx(feeding.length ? "pass-name fed" : "pass-name")}>
        {feeding.length ? "◉" : "○"} {name}
      </span>
    </div>
  );
}

function fedPart(from: number, to: number, pass: PassView): React.CSSProperties {
  const length = pass.song_end_s - pass.song_start_s;
  const [a, b] = [Math.max(0, from - pass.song_start_s), Math.min(length, to - pass.song_start_s)];
  return { left: `${(100 * a) / length}%`, width: `${(100 * (b - a)) / length}%` };
}

function AngleForm({ angle }: { angle: AngleView }) {
  const { act, id } = useProject();
  const [name, setName] = useState(angle.name);
  const params = { path: { project_id: id, angle_id: angle.id } };
  const change = (body: { name?: string; hue?: number }) =>
    act(() => data(api.PATCH("/api/projects/{project_id}/coverage/angles/{angle_id}", { params, body })));
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
      <Button
        size="small"
        danger
        onClick={() => act(() => data(api.DELETE("/api/projects/{project_id}/coverage/angles/{angle_id}", { params })))}
      >
        Remove angle
      </Button>
    </div>
  );
}
