import type { EditView } from "../../api/client";
import { useProject } from "../../api/project";
import { minutes } from "../../parts/format";
import { Picture } from "../../player/Picture";
import styles from "./HandoffView.module.css";

/** The film as it stands: its picture at the playhead, and what it is made of. */
export function FilmSoFar({ edit }: { edit: EditView }) {
  const { state, rate } = useProject();
  const lengths = edit.shots.map((s) => (s.end - s.start) / rate);
  const angles = new Set(edit.shots.flatMap((s) => (s.source.angle === null ? [] : [s.source.angle]))).size;
  const facts = [
    ["Length", minutes(edit.length / rate)],
    ["Shots", String(edit.shots.length)],
    ["Cutaways", String(edit.cutaways.length)],
    ["Angles", `${angles} of ${state.angles.length}`],
    ["Mean shot", `${(edit.length / rate / edit.shots.length).toFixed(1)} s`],
    ["Longest", `${Math.max(...lengths).toFixed(1)} s`],
    ["Shortest", `${Math.min(...lengths).toFixed(2)} s`],
  ];
  return (
    <>
      <h2>The film so far</h2>
      <div className={styles["so-far"]}>
        <Picture layers={edit.programme.layers} size="programme" label="The film at the playhead" id="film" />
        <dl>
          {facts.map(([name, value]) => (
            <div key={name}>
              <dt>{name}</dt>
              <dd>{value}</dd>
            </div>
          ))}
        </dl>
      </div>
    </>
  );
}
