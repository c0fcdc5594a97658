import { Button, Popover } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { shotsOf } from "../../api/lanes";
import type { EditView, Operation, Unit } from "../../api/client";
import { useProject } from "../../api/project";
import { classes } from "../../parts/classes";
import { hueOf } from "../../theme";
import styles from "./Assemble.module.css";

const cx = classes(styles);

/** Lays the shot list on the song, once it has been seen what comes. */
export function Assemble() {
  const { id, state, ahead, operate } = useProject();
  const navigate = useNavigate();
  const [would, setWould] = useState<EditView | string | null>(null);
  const body: Operation = { op: "assemble", unit: state.unit as Unit };
  const look = (open: boolean) => {
    setWould(null);
    if (open)
      ahead(body)
        .then(setWould)
        .catch((fault: Error) => setWould(fault.message));
  };
  const lay = async () => {
    if (await operate(body)) navigate(`/p/${id}/sheet`);
  };
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      onOpenChange={look}
      destroyOnHidden
      content={
        <div className={cx("ahead")} data-testid="assembly">
          {typeof would === "string" ? (
            <p className="bad">{would}</p>
          ) : (
            would && <Ahead edit={would} length={state.length} />
          )}
          <p className="soft">
            Each line goes into its section, in its own length to the nearest place of “{state.unit}”. What nothing was
            shot of is a slot that says so. Held shots stay; one undo takes it back.
          </p>
          <Button
            type="primary"
            size="small"
            disabled={!would || typeof would === "string"}
            onClick={() => void lay()}
            data-testid="lay-assembly"
          >
            Lay it on the song
          </Button>
        </div>
      }
    >
      <Button size="small" disabled={!state.shot_list.length || !state.song} data-testid="assemble">
        Lay on the song…
      </Button>
    </Popover>
  );
}

/** A cut that would be made, as a strip as long as the song. */
function Ahead({ edit, length }: { edit: EditView; length: number }) {
  const { state } = useProject();
  const shots = shotsOf(edit);
  const [clips, angles] = ["clip", "angle"].map((kind) => shots.filter((s) => s.source.kind === kind).length);
  const planned = shots.filter((s) => s.source.kind === "empty" && s.source.words).length;
  return (
    <>
      <p>
        Then {shots.length} shots: {clips} of clips, {angles} of angles, {planned} {planned === 1 ? "slot" : "slots"}{" "}
        for what was never shot.
      </p>
      <div className={cx("strip")}>
        {shots.map((s) => {
          const angle = state.angles.find((a) => a.id === s.source.angle);
          const media = state.media.find((m) => m.id === s.source.media);
          return (
            <i
              key={s.id || s.start}
              className={cx(s.source.kind === "empty" ? "empty" : "shot")}
              style={{
                flexGrow: (s.end - s.start) / length,
                ["--hue" as string]: angle ? hueOf(angle.hue) : "var(--soft)",
              }}
              title={angle?.name ?? media?.name ?? (s.source.words || "empty")}
            />
          );
        })}
      </div>
    </>
  );
}
