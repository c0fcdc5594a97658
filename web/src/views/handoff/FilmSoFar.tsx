import { shotsOf, itemsOn } from "../../api/lanes";
import type { EditView } from "../../api/client";
import { useProject } from "../../api/project";
import { minutes } from "../../parts/format";
import { Picture } from "../../player/Picture";
import styles from "./HandoffView.module.css";

/** The film as it stands: its picture at the playhead, and what it is made of. */
export function FilmSoFar({ edit }: { edit: EditView }) {
  const { state, rate } = useProject();
  // An empty slot is no shot yet.
  const shots = shotsOf(edit).filter((s) => s.source.kind !== "empty");
  const lengths = shots.map((s) => (s.end - s.start) / rate);
  const sum = lengths.reduce((all, one) => all + one, 0);
  const angles = new Set(shots.flatMap((s) => (s.source.angle === null ? [] : [s.source.angle]))).size;
  const seconds = (value: number, digits: number) => (shots.length ? `${value.toFixed(digits)} s` : "–");
  const facts = [
    ["Length", minutes((edit.lead + edit.length + edit.tail) / rate)],
    ["Shots", String(shots.length)],
    ["Cutaways", String(itemsOn(edit, "over").length)],
    ["Angles", `${angles} of ${state.angles.length}`],
    ["Mean shot", seconds(sum / shots.length, 1)],
    ["Longest", seconds(Math.max(...lengths), 1)],
    ["Shortest", seconds(Math.min(...lengths), 2)],
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
