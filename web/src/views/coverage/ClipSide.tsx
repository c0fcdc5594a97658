import { Button, Input, Select } from "antd";
import { api, data, type MediaView, type SelectView } from "../../api/client";
import { useProject } from "../../api/project";
import { lookAt } from "../../parts/broll/looking";
import { classes } from "../../parts/classes";
import { Replace } from "../../parts/Replace";
import { Still } from "../../parts/Still";
import { TextButton } from "../../parts/TextButton";
import styles from "./ClipLook.module.css";
import { ClipFit } from "../../parts/broll/ClipFit";
import { ClipNotes } from "./ClipNotes";
import { useSay } from "../../parts/broll/useSay";
import type { Look } from "../../parts/broll/useLook";

const cx = classes(styles);

/** Facts and labels of the open clip, and its fate in the film. */
export function ClipSide({
  clip,
  look,
  cuts,
  toggle,
}: {
  clip: MediaView;
  look: Look;
  cuts: boolean;
  toggle: () => void;
}) {
  const { rate } = useProject();
  const say = useSay();
  const { select, selects, item } = look;
  const said = (select ?? clip).said;
  return (
    <aside className={cx("side")}>
      {!clip.still && <Selects selects={selects} on={select?.id ?? null} />}
      <ClipNotes item={item} key={`${clip.id} ${select?.id}`} />
      {!clip.still && (
        <div className={cx("line")}>
          <span>Laid at</span>
          <Select
            size="small"
            value={said.speed}
            onChange={(speed) => void say([item], { speed })}
            options={speeds(Number.parseFloat(clip.rate) / rate, said.speed)}
            aria-label="Speed at which it is laid"
          />
        </div>
      )}
      <ClipFit clip={clip} />
      <ul className={cx("fate")}>
        {clip.fate.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
      <p className="soft">
        {clip.width}×{clip.height}
        {clip.still ? "" : ` · ${clip.rate} f/s`}
        {clip.alpha ? " · transparent: lay it over the film" : ""} · {clip.file} · picture only, its sound stays out of
        the film
      </p>
      <div className="buttons">
        {!clip.still && (
          <Button size="small" onClick={toggle} data-testid="film-cuts">
            {cuts ? "Hide its cuts" : "Split at its cuts…"}
          </Button>
        )}
        <Replace clip={clip} />
      </div>
    </aside>
  );
}

function Selects({ selects, on }: { selects: readonly SelectView[]; on: number | null }) {
  const { act, id, path } = useProject();
  if (!selects.length)
    return <p className="soft">No select yet: set in and out, and press Enter. A clip may have many.</p>;
  const rename = (select: SelectView, name: string) => {
    if (!name.trim() || name === select.name) return;
    const params = { path: { project_id: id, select_id: select.id } };
    void act(() =>
      data(api.PATCH("/api/v1/projects/{project_id}/broll/selects/{select_id}", { params, body: { name } })),
    );
  };
  const drop = (select: SelectView) =>
    act(() =>
      data(api.PATCH("/api/v1/projects/{project_id}/broll/selects", { params: path, body: { ids: [select.id] } })),
    );
  return (
    <div className={cx("selects")}>
      <h3>{selects.length === 1 ? "One select" : `${selects.length} selects`}</h3>
      {selects.map((s) => (
        <div key={s.id} className={cx(s.id === on ? "select on" : "select")} data-testid={`select-${s.name}`}>
          <button type="button" onClick={() => lookAt(s.media, s.id)} aria-label={`Change ${s.name}`}>
            <Still media={s.media} at={s.in_s} width={56} />
          </button>
          <Input
            variant="underlined"
            size="small"
            defaultValue={s.name}
            key={s.name}
            aria-label={`Name of ${s.name}`}
            onBlur={(e) => rename(s, e.target.value)}
            onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
          />
          <span className="mono">{(s.out_s - s.in_s).toFixed(1)} s</span>
          <TextButton onClick={() => void drop(s)} aria-label={`Drop ${s.name}`}>
            drop
          </TextButton>
        </div>
      ))}
    </div>
  );
}

/** Speeds to choose from: its own, half, and as slow as it goes without a doubled frame. */
function speeds(times: number, now: number): { value: number; label: string }[] {
  const slowest = Math.round(1000 / times) / 1000;
  const values = new Set([1, 0.5, 2, now, ...(times >= 1.5 ? [slowest] : [])]);
  return [...values]
    .sort((a, b) => b - a)
    .map((value) => ({
      value,
      label:
        value === 1
          ? "its own speed"
          : value === slowest
            ? `${value} times: slowest without doubles`
            : `${value} times`,
    }));
}
