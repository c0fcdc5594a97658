import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { api, data, type Filler } from "../../api/client";
import { useProject } from "../../api/project";
import { classes } from "../../parts/classes";
import { barBeat } from "../../parts/format";
import { useCommandKeys } from "../../parts/keys";
import { Still } from "../../parts/Still";
import { hueOf } from "../../theme";
import { inBeats } from "./cells";
import styles from "./Fillers.module.css";
import { useChosen } from "./useCells";

const cx = classes(styles);

/** Candidates for a hole: other angles, B-roll tagged for the section, the longest selects. */
export function Fillers({ hole }: { hole: [number, number] }) {
  const { id, state, rate, operate } = useProject();
  const [start, end] = hole;
  const song = state.song;
  const found = useQuery({
    queryKey: ["fillers", id, start, end, state.selects, state.angles],
    queryFn: () =>
      data(
        api.GET("/api/v1/projects/{project_id}/coverage/fillers", {
          params: { path: { project_id: id }, query: { start, end } },
        }),
      ),
  });
  const close = () => useChosen.setState({ hole: null });
  useCommandKeys("What could fill the hole", [{ keys: "Escape", words: "Close", run: close }], true);
  const lay = async (f: Filler) => {
    const [working_s, end_s] = [(start + 0.5) / rate, end / rate];
    const share = Math.min(1, f.share);
    const until = working_s + share * (end_s - working_s);
    const body = { working_s, end_s: until, media: f.media ?? "", select: f.select, unit: "free" as const, lead: 0 };
    if (await operate({ op: "lay over", ...body })) close();
  };
  const say = (f: Filler) => (f.share > 0.995 ? "fills it" : `fills ${Math.floor(100 * f.share)} %`);
  return (
    <section className={cx("fillers")} data-testid="fillers">
      <div className="tools">
        <b>
          Hole at {song ? barBeat(song, start / rate) : ""}, {song ? inBeats(song, start / rate, end / rate) : ""}
        </b>
        <span className="soft grow">{end - start} frames. What could stand here:</span>
        <Button size="small" onClick={close}>
          Close
        </Button>
      </div>
      <div className={cx("list")}>
        {(found.data ?? []).map((f) => {
          const angle = state.angles.find((a) => a.id === f.angle);
          const clip = state.media.find((m) => m.id === f.media);
          const select = state.selects.find((s) => s.id === f.select);
          const span = angle?.spans.find((s) => s.start < end && s.end > start);
          return (
            <div key={`${f.angle} ${f.media} ${f.select}`} className={cx("filler")}>
              {angle && span?.media ? (
                <Still media={span.media} at={span.time[0]?.at_s ?? 0} width={128} />
              ) : (
                clip && <Still media={clip.id} at={select?.in_s ?? clip.select_in_s} width={128} />
              )}
              <span>
                {angle && <b style={{ color: hueOf(angle.hue) }}>{angle.number} </b>}
                <b>{angle?.name ?? select?.name ?? clip?.name}</b>
              </span>
              <span className="soft">
                {say(f)}
                {f.tagged ? " · tagged for this section" : ""}
              </span>
              {!angle && (
                <Button size="small" onClick={() => void lay(f)}>
                  Lay over the hole
                </Button>
              )}
            </div>
          );
        })}
        {found.data && !found.data.length && (
          <p>Nothing yet: no other angle has picture here, and there is no B-roll. Add some below.</p>
        )}
      </div>
    </section>
  );
}
