import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Progress } from "antd";
import { useEffect, useState } from "react";
import { api, data, type FilmShots, type MediaView } from "../../api/client";
import { isOpen, useJobs } from "../../api/jobs";
import { useProject } from "../../api/project";
import { classes } from "../../parts/classes";
import { Still } from "../../parts/Still";
import styles from "./FilmCuts.module.css";

const cx = classes(styles);

type Shot = FilmShots["shots"][number];

const mixed = ([a = 0, b = 0]: readonly number[]) => b - a;

/** Cuts of a clip of finished footage: played, corrected, and kept as selects. The file is not touched. */
export function FilmCuts({ clip, go, done }: { clip: MediaView; go: (at: number) => void; done: () => void }) {
  const { id, act, path } = useProject();
  const params = { path: { project_id: id, media_id: clip.id } };
  const job = useJobs((s) => s.jobs.find((j) => j.kind === "shots" && j.title.endsWith(clip.name)));
  const found = useQuery({
    queryKey: ["film", id, clip.id, job?.state],
    queryFn: () => data(api.GET("/api/v1/projects/{project_id}/broll/films/{media_id}", { params })),
  });
  const [shots, setShots] = useState<Shot[]>([]);
  const [left, setLeft] = useState<ReadonlySet<number>>(new Set());
  useEffect(() => {
    setShots(found.data?.shots ?? []);
    setLeft(new Set());
  }, [found.data]);
  const begin = () => act(() => data(api.POST("/api/v1/projects/{project_id}/broll/films/{media_id}", { params })));
  const frame = 1 / (Number.parseFloat(clip.rate) || 25);
  /** Move the border before a shot by frames; both shots follow. */
  const move = (n: number, by: number) => {
    setShots((now) => {
      const border = (now[n]?.in_s ?? 0) + by * frame;
      const [before, after] = [now[n - 1], now[n]];
      if (!before || !after || border <= before.in_s + frame / 2 || border >= after.out_s - frame / 2) return now;
      const next = [...now];
      next[n - 1] = { ...before, out_s: border, end: before.end + by };
      next[n] = { ...after, in_s: border, first: after.first + by };
      return next;
    });
  };
  /** Two shots are one after all. */
  const join = (n: number) =>
    setShots((now) => {
      const [before, after] = [now[n - 1], now[n]];
      if (!before || !after) return now;
      return [...now.slice(0, n - 1), { ...before, end: after.end, out_s: after.out_s }, ...now.slice(n + 1)];
    });
  const wanted = shots.filter((s) => !left.has(s.first));
  const keep = async () => {
    const ranges = wanted.map((s) => ({ in_s: s.in_s, out_s: s.out_s, name: "" }));
    const body = { media: clip.id, ranges };
    if (await act(() => data(api.POST("/api/v1/projects/{project_id}/broll/selects", { params: path, body })))) done();
  };
  return (
    <div className={cx("cuts")} data-testid="cuts-found">
      <div className="tools">
        <b>Cuts in {clip.name}</b>
        {job && isOpen(job) ? (
          <span className="grow">
            <Progress aria-label="Looking for cuts" percent={Math.round(100 * job.progress)} size="small" />{" "}
            {job.message}
          </span>
        ) : shots.length ? (
          <span className="soft grow">
            {shots.length === 1
              ? "none found: it is one shot"
              : `${shots.length} shots. Click one to see its border; leave out what you do not want.`}
          </span>
        ) : (
          <span className="soft grow">Every frame is looked at; that takes about as long as decoding it.</span>
        )}
        {(!job || !isOpen(job)) && !shots.length && (
          <Button size="small" type="primary" onClick={() => void begin()} data-testid="find-cuts">
            Find its cuts
          </Button>
        )}
        {shots.length > 0 && (
          <Button
            size="small"
            type="primary"
            disabled={!wanted.length}
            onClick={() => void keep()}
            data-testid="keep-shots"
          >
            Keep {wanted.length} as selects
          </Button>
        )}
      </div>
      <div className={cx("shots")}>
        {shots.map((s, n) => (
          <div key={s.first} className={cx(left.has(s.first) ? "shot left" : "shot")} data-testid="found-shot">
            <button type="button" onClick={() => go(s.in_s)} aria-label={`Go to shot ${n + 1}`}>
              <Still media={clip.id} at={(s.in_s + s.out_s) / 2} width={118} />
            </button>
            <Checkbox
              checked={!left.has(s.first)}
              onChange={(e) => {
                const next = new Set(left);
                if (e.target.checked) next.delete(s.first);
                else next.add(s.first);
                setLeft(next);
              }}
            >
              {n + 1} · {(s.out_s - s.in_s).toFixed(1)} s
            </Checkbox>
            {n > 0 && (
              <span className={cx("border")}>
                <Button type="text" size="small" onClick={() => move(n, -1)} aria-label={`Border ${n} a frame earlier`}>
                  ◂
                </Button>
                <span className="mono" title={`first frame ${s.first}`}>
                  {s.begins === "dissolve" && s.dissolve ? `mix ${mixed(s.dissolve)} f` : `f ${s.first}`}
                </span>
                <Button type="text" size="small" onClick={() => move(n, 1)} aria-label={`Border ${n} a frame later`}>
                  ▸
                </Button>
                <Button
                  type="text"
                  size="small"
                  onClick={() => join(n)}
                  title="No cut here: one shot with the one before"
                >
                  join
                </Button>
              </span>
            )}
          </div>
        ))}
      </div>
    </div>
  );
}
