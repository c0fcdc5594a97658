import { shotsOf } from "../../api/lanes";
import { useQuery } from "@tanstack/react-query";
import { Button, Popover } from "antd";
import { useState } from "react";
import { api, data, type Schemas } from "../../api/client";
import { useEdit, useProject } from "../../api/project";
import { classes } from "../../parts/classes";
import { barBeat } from "../../parts/format";
import { clock } from "../../player/clock";
import { hueOf } from "../../theme";
import styles from "./Judge.module.css";
import { TextButton } from "../../parts/TextButton";

const cx = classes(styles);

/** The cut as a whole: how long shots are against how loud it is, where cuts fall, how angles come and go. */
export function Judge() {
  const [open, setOpen] = useState(false);
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      open={open}
      onOpenChange={setOpen}
      destroyOnHidden
      content={<Judged />}
    >
      <Button size="small" data-testid="judge">
        Judge
      </Button>
    </Popover>
  );
}

function Judged() {
  const { id, state, rate, ofEdit } = useProject();
  const edit = useEdit();
  const found = useQuery({
    queryKey: ["judged", id, shotsOf(edit)],
    queryFn: () => data(api.GET("/api/v1/projects/{project_id}/edits/{edit_id}/judged", { params: ofEdit() })),
  });
  if (!found.data) return <p className="soft">{found.error?.message ?? "Looking through the cut…"}</p>;
  const { shots, mean_beats, falls, parts, angles, places } = found.data;
  const go = (frame: number) => clock.seek((frame + 0.001) / rate);
  const cuts = Object.values(falls).reduce((a, b) => a + b, 0);
  return (
    <div className={cx("judged")} data-testid="judged">
      <div>
        <b>{shots} shots</b>, {mean_beats.toFixed(1)} beats each ·{" "}
        {Object.entries(falls)
          .filter(([, n]) => n)
          .map(
            ([where, n]) =>
              `${Math.round((100 * n) / Math.max(1, cuts))} % ${where === "off" ? "off the beat" : `on a ${where}`}`,
          )
          .join(" · ")}
      </div>
      <Parts parts={parts} go={go} />
      <div className={cx("angles")}>
        {angles.map((a) => {
          const angle = state.angles.find((x) => x.id === a.angle);
          return (
            <TextButton key={a.angle} onClick={() => go(a.away_until)}>
              <b style={{ color: hueOf(angle?.hue ?? 1) }}>{angle?.number}</b> {a.shots} shots,{" "}
              {Math.round((100 * a.frames) / Math.max(1, state.length))} %
              {a.away_beats > 0 ? `, away up to ${a.away_beats.toFixed(0)} beats` : ""}
            </TextButton>
          );
        })}
      </div>
      {places.length > 0 ? (
        <ul className={cx("places")}>
          {places.map((p) => (
            <li key={`${p.frame} ${p.words}`}>
              <TextButton onClick={() => go(p.frame)}>
                {state.song ? barBeat(state.song, (p.frame + 0.5) / rate) : p.frame}
              </TextButton>{" "}
              {p.words}
            </li>
          ))}
        </ul>
      ) : (
        <p className="soft">Nothing stands out.</p>
      )}
    </div>
  );
}

/** Mean length of shots over the sections, as columns; the line is how loud each is. */
function Parts({ parts, go }: { parts: readonly Schemas["SectionCut"][]; go: (frame: number) => void }) {
  const most = Math.max(1, ...parts.map((p) => p.mean_beats));
  const levels = parts.map((p) => p.level);
  const [low, high] = [Math.min(...levels), Math.max(...levels)];
  return (
    <figure className={cx("figure")}>
      <figcaption className={cx("legend")}>
        <span className={cx("key-column")} /> beats a shot on average <span className={cx("key-line")} /> how loud the
        section is
      </figcaption>
      <div className={cx("parts")}>
        {parts.map((p) => (
          <button
            type="button"
            key={p.start}
            className={cx("part")}
            onClick={() => go(p.start)}
            style={{ flexGrow: p.end - p.start }}
          >
            <span className={cx("column")}>
              <span className={cx("bar")} style={{ height: `${(100 * p.mean_beats) / most}%` }} />
              <span className={cx("loud")} style={{ bottom: `${(96 * (p.level - low)) / Math.max(1, high - low)}%` }} />
            </span>
            <span className={cx("part-name")} title={`${p.name}: ${p.shots} shots`}>
              <b>{p.mean_beats.toFixed(1)}</b> {p.name}
            </span>
          </button>
        ))}
      </div>
    </figure>
  );
}
