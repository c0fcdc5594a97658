import { useDroppable } from "@dnd-kit/core";
import { Button, Input, Select, Typography, Upload } from "antd";
import { useState } from "react";
import { api, data, type Listed } from "../../api/client";
import { useProject } from "../../api/project";
import { carry, dropped } from "../../parts/broll/carrying";
import { classes } from "../../parts/classes";
import styles from "./ShotList.module.css";
import { Assemble } from "./Assemble";
import { useWorkingPasses } from "./useCells";
import { TextButton } from "../../parts/TextButton";

const cx = classes(styles);

/** Tick something off the list, or take the tick away. */
export function useTick() {
  const { id, act } = useProject();
  return (shot: number, what: { pass_id?: number; media?: string; select?: number }, on = true) =>
    act(() =>
      data(
        api.PUT("/api/v1/projects/{project_id}/shot-list/shots/{listed_id}/tick", {
          params: { path: { project_id: id, listed_id: shot } },
          body: { ...what, on },
        }),
      ),
    );
}

/** The shot list, section by section, and the material for each line. */
export function ShotList({ only }: { only?: string | undefined }) {
  const { state, act, path, id } = useProject();
  const list = state.shot_list.filter((s) => !only || s.section === only);
  const missing = list.filter((s) => !isDone(s)).length;
  const read = async (file: File) => {
    const text = await file.text();
    await act(
      () => data(api.POST("/api/v1/projects/{project_id}/shot-list", { params: path, body: { text } })),
      `Read ${file.name}`,
    );
  };
  return (
    <section className={cx("shot-list")} data-testid="shot-list">
      <div className="tools">
        <b>Shot list</b>
        <span className="soft grow">{list.length ? (missing ? `${missing} never shot` : "all shot") : ""}</span>
        <Upload
          accept=".csv,text/csv"
          showUploadList={false}
          beforeUpload={(file) => {
            void read(file);
            return false;
          }}
        >
          <Button size="small" data-testid="read-shot-list">
            Read a CSV…
          </Button>
        </Upload>
        <Typography.Link
          underline
          href={`/api/v1/projects/${id}/${list.length ? "shot-list.csv" : "shot-list-template.csv"}`}
          download
        >
          {list.length ? "as CSV" : "template"}
        </Typography.Link>
      </div>
      <div className={cx("rows")}>
        {list.map((s) => (
          <Row key={s.id} shot={s} />
        ))}
        {!list.length && (
          <p className="soft">
            What was planned for each section: read a CSV (section, what, camera, note), or write it here. Drag clips
            and passes onto a line to tick it off.
          </p>
        )}
        {list.length > 0 && !only && <Assemble />}
        <Plan section={only} />
      </div>
    </section>
  );
}

/** Drags the clip or select of a tick as the strip of clips does; a pass is no clip. */
function carriedBy(what: ReturnType<typeof whatOf>, selects: readonly { id: number; media: string }[]) {
  const select = selects.find((s) => s.id === what.select);
  const media = select?.media ?? what.media;
  if (!media) return {};
  return {
    draggable: true,
    onDragStart: (event: React.DragEvent) => carry(event.dataTransfer, { media, select: select?.id ?? null }),
    onDragEnd: dropped,
  };
}

function isDone(shot: Listed): boolean {
  return shot.done.length + shot.by_tag.length > 0;
}

function Row({ shot }: { shot: Listed }) {
  const { state, act, id } = useProject();
  const { passes, name } = useWorkingPasses();
  const tick = useTick();
  const { setNodeRef, isOver } = useDroppable({ id: `l${shot.id}` });
  const [choosing, setChoosing] = useState(false);
  const params = { path: { project_id: id, listed_id: shot.id } };
  const options = [
    ...passes.map((p) => ({ value: `p${p.id}`, label: name(p) })),
    ...state.selects.map((s) => ({ value: `s${s.id}`, label: s.name })),
    ...state.media.filter((m) => m.kind === "broll").map((m) => ({ value: `m${m.id}`, label: m.name })),
  ];
  return (
    <div ref={setNodeRef} className={cx(`row${isOver ? " over" : ""}`)} data-testid={`listed-${shot.what}`}>
      <span className={isDone(shot) ? "good" : "bad"} aria-hidden="true">
        {isDone(shot) ? "☑" : "☐"}
      </span>
      <span className="grow">
        {shot.section && <span className="soft">{shot.section}: </span>}
        {shot.what}
        {shot.camera && <span className="soft"> · {shot.camera}</span>}
        {shot.note && <span className="soft"> · {shot.note}</span>}
        <span className={cx("ticks")}>
          {shot.done.map((n, k) => (
            <TextButton
              key={n}
              title="Take this tick away; a clip can be dragged to a Sheet in a second window"
              {...carriedBy(whatOf(shot.ticks[k] as Record<string, unknown>), state.selects)}
              onClick={() => void tick(shot.id, whatOf(shot.ticks[k] as Record<string, unknown>), false)}
            >
              {n} ×
            </TextButton>
          ))}
          {shot.by_tag.map((n) => (
            <span key={n} className="soft">
              {n}, by its tag{" "}
            </span>
          ))}
          {!isDone(shot) && <span className="bad">never shot</span>}
        </span>
      </span>
      {choosing ? (
        <Select
          size="small"
          autoFocus
          defaultOpen
          showSearch={{ optionFilterProp: "label" }}
          style={{ width: 140 }}
          options={options}
          onSelect={(value: string) => {
            setChoosing(false);
            void tick(shot.id, whatOfKey(value));
          }}
          onBlur={() => setChoosing(false)}
          aria-label={`What shows ${shot.what}`}
        />
      ) : (
        <TextButton onClick={() => setChoosing(true)} data-testid={`tick-${shot.what}`}>
          tick off
        </TextButton>
      )}
      <TextButton
        aria-label={`Take ${shot.what} off the list`}
        onClick={() =>
          void act(() => data(api.DELETE("/api/v1/projects/{project_id}/shot-list/shots/{listed_id}", { params })))
        }
      >
        ×
      </TextButton>
    </div>
  );
}

/** A tick as the server keeps it, as it is asked for. */
function whatOf(kept: Record<string, unknown>): { pass_id?: number; media?: string; select?: number } {
  if ("pass" in kept) return { pass_id: kept.pass as number };
  return kept as { media?: string; select?: number };
}

/** The thing that the key of a card or pass names: "p3", "s2", "m1a". */
export function whatOfKey(key: string): { pass_id?: number; media?: string; select?: number } {
  const rest = key.slice(1);
  return key[0] === "p" ? { pass_id: Number(rest) } : key[0] === "s" ? { select: Number(rest) } : { media: rest };
}

function Plan({ section }: { section: string | undefined }) {
  const { state, act, path } = useProject();
  const [what, setWhat] = useState("");
  const [where, setWhere] = useState(section ?? "");
  const add = async () => {
    if (!what.trim()) return;
    const body = { what, section: section ?? where, camera: "", note: "" };
    if (await act(() => data(api.POST("/api/v1/projects/{project_id}/shot-list/shots", { params: path, body }))))
      setWhat("");
  };
  return (
    <div className={cx("plan")}>
      {!section && (
        <Select
          size="small"
          value={where}
          onChange={setWhere}
          style={{ width: 96 }}
          options={[
            { value: "", label: "anywhere" },
            ...(state.song?.sections ?? []).map((s) => ({ value: s.name, label: s.name })),
          ]}
          aria-label="Section of the planned shot"
        />
      )}
      <Input
        size="small"
        value={what}
        onChange={(e) => setWhat(e.target.value)}
        onPressEnter={() => void add()}
        placeholder="plan a shot"
        aria-label="Plan a shot"
      />
    </div>
  );
}
