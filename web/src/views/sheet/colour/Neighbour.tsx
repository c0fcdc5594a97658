import { useEdit, useProject } from "../../../api/project";
import { classes } from "../../../parts/classes";
import { TextButton } from "../../../parts/TextButton";
import { Picture } from "../../../player/Picture";
import styles from "./Colour.module.css";
import { isFar, type Jump, useJumpLimit } from "./useColour";

const cx = classes(styles);

/** How much a cut jumps; one that is pointed out can be said to be meant, and the other way round. */
export function Jumped({ words, jump }: { words: string; jump: Jump }) {
  const { operate } = useProject();
  const limit = useJumpLimit();
  const far = isFar(jump, limit);
  const mean = (word: string | null) => void operate({ op: "accept", items: [jump.after.item], check: "jump", word });
  return (
    <>
      {words} <b className={far ? cx("jumps-far") : undefined}>jumps {jump.jump.toFixed(1)}</b>
      {far && (
        <>
          {" "}
          <TextButton onClick={() => mean("")} data-testid="jump-meant">
            meant to
          </TextButton>
        </>
      )}
      {jump.meant !== null && (
        <>
          {", "}
          <TextButton onClick={() => mean(null)} data-testid="jump-counts" title="Count it again">
            meant to
          </TextButton>
        </>
      )}
    </>
  );
}

interface NeighbourProps {
  frame: number | undefined;
  words: string;
  name: string;
  go: () => unknown;
}

/** The picture on the other side of a cut. */
export function Neighbour({ frame, words, name, go }: NeighbourProps) {
  const { state } = useProject();
  const edit = useEdit();
  if (frame === undefined || !edit) return <div className={cx("neighbour")} />;
  return (
    <button type="button" className={cx("neighbour")} onClick={go} title="Go there">
      <span className={cx("framed")} style={{ aspectRatio: `${state.width} / ${state.height}` }}>
        <Picture layers={edit.programme.layers} size="wall" label={`${name}, ${words}`} at={frame} />
      </span>
      <span>
        <b>{name}</b> · {words}
      </span>
    </button>
  );
}
