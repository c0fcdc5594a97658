import { Button, Input, Select } from "antd";
import { useEffect, useMemo, useState } from "react";
import { api, data, type MediaView, type SelectView } from "../../api/client";
import { useEdit, useProject } from "../../api/project";
import { fateOf, type Item, itemsOf, sifted, NO_SIFT } from "../../parts/broll/items";
import { lookAt, useLooking } from "../../parts/broll/looking";
import { classes } from "../../parts/classes";
import { useKeys } from "../../parts/keys";
import { Still } from "../../parts/Still";
import styles from "./ClipLook.module.css";
import { ClipFit } from "./ClipFit";
import { ClipNotes } from "./ClipNotes";
import { FilmCuts } from "./FilmCuts";
import { StillLook } from "./StillLook";
import { Replace } from "../../parts/Replace";
import { useSay } from "./SayTogether";
import { useClip } from "./useClip";
import { TextButton } from "../../parts/TextButton";

const cx = classes(styles);
const STILLS = 14;

/** A clip looked at large: played, its selects kept, rated, tagged, all without leaving the keyboard. */
export function ClipLook({ clip }: { clip: MediaView }) {
  const { id, state, act, path, rate } = useProject();
  const edit = useEdit();
  const chosen = useLooking((l) => l.select);
  const selects = state.selects.filter((s) => s.media === clip.id).sort((a, b) => a.in_s - b.in_s);
  const select = selects.find((s) => s.id === chosen) ?? null;
  const start = select?.in_s ?? clip.select_in_s;
  const player = useClip(id, clip.id, start, clip.look);
  const [range, setRange] = useState<[number, number]>([start, select?.out_s ?? clip.select_out_s]);
  const [cuts, setCuts] = useState(false);
  const say = useSay();
  useEffect(() => {
    setRange([select?.in_s ?? clip.select_in_s, select?.out_s ?? clip.select_out_s]);
  }, [select?.id, clip.id, clip.select_in_s, clip.select_out_s, select?.in_s, select?.out_s]);
  const order = useMemo(
    () => sifted(itemsOf(state.media, state.selects, edit, true), NO_SIFT).filter((i) => !i.select),
    [state.media, state.selects, edit],
  );
  const next = (by: number) => {
    const at = order.findIndex((i) => i.clip.id === clip.id);
    const to = order[(at + by + order.length) % order.length];
    if (to) lookAt(to.clip.id);
  };
  const keep = async () => {
    // A still has no range to keep.
    if (clip.still) return;
    const [in_s, out_s] = range;
    if (select) {
      const params = { path: { project_id: id, select_id: select.id } };
      await act(() =>
        data(api.PATCH("/api/projects/{project_id}/broll/selects/{select_id}", { params, body: { in_s, out_s } })),
      );
      return;
    }
    const body = { media: clip.id, ranges: [{ in_s, out_s, name: "" }] };
    const made = await act(() => data(api.POST("/api/projects/{project_id}/broll/selects", { params: path, body })));
    // What comes after it is looked through next.
    if (made) setRange([Math.min(out_s, clip.seconds), clip.seconds]);
  };
  const setIn = () => setRange(([, out]) => [player.shown(), out > player.shown() ? out : clip.seconds]);
  const setOut = () => {
    const end = player.end(clip.seconds);
    setRange(([first]) => [first < end ? first : 0, end]);
  };
  const shuttle = (way: 1 | -1) =>
    player.play(Math.sign(player.speed) === way ? Math.max(-4, Math.min(4, player.speed * 2)) : way);
  const moment = (select ?? clip).said.moment_s ?? clip.said.moment_s;
  const item: Pick<Item, "clip" | "select"> = { clip, select };
  useKeys(
    {
      ...(clip.still ? {} : { Space: () => player.play(player.speed ? 0 : 1) }),
      k: () => player.play(0),
      l: () => shuttle(1),
      j: () => shuttle(-1),
      ArrowLeft: () => player.step(-1),
      ArrowRight: () => player.step(1),
      "Shift+ArrowLeft": () => player.go(player.at - 1),
      "Shift+ArrowRight": () => player.go(player.at + 1),
      ArrowDown: () => next(1),
      ArrowUp: () => next(-1),
      i: setIn,
      o: setOut,
      Enter: () => void keep(),
      m: () => void (clip.still || say([item], { moment_s: player.shown() })),
      n: () => lookAt(clip.id),
      Escape: () => (select ? lookAt(clip.id) : lookAt(null)),
      ...Object.fromEntries([0, 1, 2, 3, 4, 5].map((n) => [String(n), () => void say([item], { rating: n })])),
    },
    true,
  );
  const share = (seconds: number) => `${(100 * Math.min(seconds, clip.seconds)) / Math.max(1e-6, clip.seconds)}%`;
  const scrub = (event: React.PointerEvent) => {
    if (event.type === "pointermove" && !event.buttons) return;
    const box = event.currentTarget.getBoundingClientRect();
    player.play(0);
    player.go(((event.clientX - box.left) / box.width) * clip.seconds);
  };
  const fate = fateOf(clip, { rate, width: state.width, height: state.height });
  return (
    <section
      className={cx("look")}
      data-testid="clip-look"
      data-in={range[0].toFixed(4)}
      data-out={range[1].toFixed(4)}
    >
      <div className={cx("main")}>
        <div className={cx("title")}>
          <Button size="small" onClick={() => lookAt(null)}>
            ◂ All B-roll
          </Button>
          <b>{select ? `${select.name} · a select of ${clip.name}` : clip.name}</b>
          <span className="grow" />
          <span className="mono">
            {clip.still
              ? "a still, as long as it is wanted"
              : `${player.at.toFixed(2)} s of ${clip.seconds.toFixed(2)} s`}
            {player.speed !== 0 && player.speed !== 1 ? ` · ${player.speed} times` : ""}
          </span>
          <Button size="small" onClick={() => next(-1)}>
            ▴ previous
          </Button>
          <Button size="small" onClick={() => next(1)}>
            ▾ next clip
          </Button>
        </div>
        {clip.still ? (
          <StillLook clip={clip} key={clip.id} />
        ) : (
          <canvas
            ref={player.canvas}
            className={cx("canvas")}
            width={960}
            height={Math.round((960 * state.height) / state.width / 2) * 2}
            role="img"
            aria-label={`Frame of ${clip.name}`}
            data-testid="look-picture"
            onClick={() => player.play(player.speed ? 0 : 1)}
          />
        )}
        {!clip.still && (
          <div className={cx("strip")} onPointerDown={scrub} onPointerMove={scrub} data-testid="look-strip">
            <div className={cx("stills")}>
              {Array.from({ length: STILLS }, (_, k) => (k + 0.5) / STILLS).map((part) => (
                <Still key={part} media={clip.id} at={part * clip.seconds} width={62} />
              ))}
            </div>
            <span className={cx("outside")} style={{ left: 0, width: share(range[0]) }} />
            <span className={cx("outside")} style={{ left: share(range[1]), right: 0 }} />
            {selects.map((s) => (
              <span
                key={s.id}
                className={cx(s.id === select?.id ? "kept on" : "kept")}
                style={{ left: share(s.in_s), width: share(s.out_s - s.in_s) }}
                title={s.name}
              />
            ))}
            {moment !== null && (
              <span
                className={cx("moment")}
                style={{ left: share(moment) }}
                title={`Its moment, at ${moment.toFixed(2)} s`}
              />
            )}
            <span className={cx("head")} style={{ left: share(player.at) }} />
          </div>
        )}
        <div className={cx("under")}>
          {!clip.still && (
            <>
              <span className="mono">
                {range[0].toFixed(2)} to {range[1].toFixed(2)}, {(range[1] - range[0]).toFixed(2)} s
              </span>
              <Button size="small" onClick={setIn}>
                In I
              </Button>
              <Button size="small" onClick={setOut}>
                Out O
              </Button>
              <Button
                size="small"
                onClick={() => void say([item], { moment_s: player.shown() })}
                title="A moment that can be laid on a beat"
                data-testid="mark-moment"
              >
                {moment === null ? "Its moment M" : `Moment ${moment.toFixed(2)} M`}
              </Button>
              <Button size="small" type="primary" onClick={() => void keep()} data-testid="keep-select">
                {select ? "Change the select ⏎" : "Keep a select ⏎"}
              </Button>
            </>
          )}
          <span className="grow" />
          <span className={cx("keys")}>
            {clip.still ? (clip.fit.to ? "space shows the move" : "") : "space plays · J K L"} · 0 to 5 rates · ▴▾ other
            clips · Esc back
          </span>
        </div>
      </div>
      <aside className={cx("side")}>
        {!clip.still && <Selects selects={selects} on={select?.id ?? null} />}
        <ClipNotes item={item} key={`${clip.id} ${select?.id}`} />
        {!clip.still && (
          <div className={cx("line")}>
            <span>Laid at</span>
            <Select
              size="small"
              value={(select ?? clip).said.speed}
              onChange={(speed) => void say([item], { speed })}
              options={speeds(Number.parseFloat(clip.rate) / rate, (select ?? clip).said.speed)}
              aria-label="Speed at which it is laid"
            />
          </div>
        )}
        <ClipFit clip={clip} />
        <ul className={cx("fate")}>
          {fate.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
        <p className="soft">
          {clip.width}×{clip.height}
          {clip.still ? "" : ` · ${clip.rate} f/s`} · {clip.file} · picture only, its sound stays out of the film
        </p>
        <div className="buttons">
          {!clip.still && (
            <Button size="small" onClick={() => setCuts(!cuts)} data-testid="film-cuts">
              {cuts ? "Hide its cuts" : "Split at its cuts…"}
            </Button>
          )}
          <Replace clip={clip} />
        </div>
      </aside>
      {cuts && <FilmCuts clip={clip} go={player.go} done={() => setCuts(false)} />}
    </section>
  );
}

function Selects({ selects, on }: { selects: readonly SelectView[]; on: number | null }) {
  const { act, id, path } = useProject();
  if (!selects.length)
    return <p className="soft">No select yet: set in and out, and press Enter. A clip may have many.</p>;
  const rename = (select: SelectView, name: string) => {
    if (!name.trim() || name === select.name) return;
    const params = { path: { project_id: id, select_id: select.id } };
    void act(() => data(api.PATCH("/api/projects/{project_id}/broll/selects/{select_id}", { params, body: { name } })));
  };
  const drop = (select: SelectView) =>
    act(() =>
      data(api.POST("/api/projects/{project_id}/broll/selects/drop", { params: path, body: { ids: [select.id] } })),
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
