import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { api, data, type ItemView } from "../../api/client";
import { useEdit, useProject } from "../../api/project";
import { classes } from "../../parts/classes";
import { kept } from "../../parts/kept";
import { Still } from "../../parts/Still";
import styles from "./NextBest.module.css";
import { rulesOff } from "./plan";

const cx = classes(styles);

/** Clips that are shown at once. */
const MOST = 6;

/** What the plan's rules would put in place of a clip, the best first, each with what speaks for it. */
export function NextBest({ shot, done }: { shot: ItemView; done: () => void }) {
  const { id, ofEdit, operate } = useProject();
  const edit = useEdit();
  const without = kept<string[]>(rulesOff(id), []);
  const { path } = ofEdit();
  const found = useQuery({
    queryKey: ["next best", id, edit?.id, edit?.version, shot.id, without],
    queryFn: () =>
      data(
        api.GET("/api/v1/projects/{project_id}/edits/{edit_id}/next-best/{item}", {
          params: { path: { ...path, item: shot.id }, query: { without } },
        }),
      ),
    retry: false,
  });
  const list = found.data?.slice(0, MOST) ?? [];
  return (
    <div className={cx("list")} ref={(list) => list?.scrollIntoView({ block: "nearest" })} data-testid="next-best">
      <b>Another clip in its place, the best first</b>
      {found.error && <p className="bad">{found.error.message}</p>}
      {found.data && !list.length && (
        <p className="soft">No other clip has a free stretch of {shot.end - shot.start} f.</p>
      )}
      {list.map((clip) => (
        <button
          key={`${clip.media} ${clip.in_s}`}
          type="button"
          className={cx("one")}
          onClick={() =>
            void operate({ op: "lay", item: shot.id, media: clip.media, in_s: clip.in_s, speed: clip.speed })
          }
          data-testid="next-best-one"
        >
          <Still media={clip.media} at={clip.in_s} width={72} inFilm />
          <span>
            <span>
              {clip.name} <span className="mono">from {clip.in_s.toFixed(1)} s</span>
            </span>
            <span className="soft">{clip.reason || "no rule speaks for it more than for others"}</span>
          </span>
        </button>
      ))}
      <Button size="small" onClick={done}>
        Leave it
      </Button>
    </div>
  );
}
