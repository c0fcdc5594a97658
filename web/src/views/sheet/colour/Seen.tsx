import { useMemo } from "react";
import type { EditView } from "../../../api/client";
import { itemsOn } from "../../../api/lanes";
import { useProject } from "../../../api/project";
import { classes } from "../../../parts/classes";
import { follow } from "../../../parts/drag";
import { Picture } from "../../../player/Picture";
import { useChoice } from "../choice";
import { Clipped } from "./Clipped";
import styles from "./Colour.module.css";
import { Scopes } from "./Scopes";
import { STAGES, type Stage, withoutStages } from "./stages";
import type { KeptStill } from "./stills";

const cx = classes(styles);
const ALL: ReadonlySet<Stage> = new Set(STAGES);

interface Props {
  edit: EditView;
  off: ReadonlySet<Stage>;
  clipped: boolean;
  still: KeptStill | null;
  /** Where the line lies that splits the picture, as a share of its width. */
  line: number | null;
  setLine: (line: number) => void;
}

const inside = (line: number) => Math.min(0.98, Math.max(0.02, line));

/** The programme's picture with the stages that are on, while a control is dragged as it would be; marked, or split by a line. */
export function Seen({ edit, off, clipped, still, line, setLine }: Props) {
  const { state } = useProject();
  const trying = useChoice((c) => c.trial);
  const layers = edit.programme.layers;
  const seen = useMemo(
    () => withoutStages(trying ?? layers, off, state.media, itemsOn(edit, "ranges")),
    [trying, layers, off, state.media, edit],
  );
  const bare = useMemo(() => withoutStages(layers, ALL, state.media, []), [layers, state.media]);
  const drag = (down: React.PointerEvent<HTMLElement>) => {
    const frame = (down.currentTarget.parentElement as HTMLElement).getBoundingClientRect();
    follow(
      down,
      ({ event }) => setLine(inside((event.clientX - frame.left) / frame.width)),
      () => undefined,
    );
  };
  return (
    <div className={cx("framed")} style={{ aspectRatio: `${state.width} / ${state.height}` }}>
      <Picture layers={seen} size="programme" label="Programme" id="programme" draft={trying !== null} />
      {clipped && <Clipped changed={`${[...off]} ${edit.version} ${trying !== null}`} />}
      {line !== null && (
        <>
          <div className={cx("half")} style={{ clipPath: `inset(0 ${100 * (1 - line)}% 0 0)` }}>
            {still ? (
              <img src={still.picture} alt={`Kept: ${still.name}`} />
            ) : (
              <Picture layers={bare} size="programme" label="As filmed" />
            )}
          </div>
          <button
            type="button"
            className={cx("line")}
            style={{ left: `${100 * line}%` }}
            aria-label={`Line between as filmed and as graded, at ${Math.round(100 * line)} %`}
            onPointerDown={drag}
            onKeyDown={(event) => {
              const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key];
              if (!by) return;
              setLine(inside(line + by));
              event.preventDefault();
              event.stopPropagation();
            }}
            data-testid="split-line"
          />
          <span className={cx("tag left")}>{still ? `kept: ${still.name}` : "as filmed"}</span>
          <span className={cx("tag right")}>as graded</span>
        </>
      )}
    </div>
  );
}

/** The scopes of what is seen. */
export function SeenScopes({ off, version }: { off: ReadonlySet<Stage>; version: unknown }) {
  const trying = useChoice((c) => c.trial !== null);
  return <Scopes changed={`${[...off]} ${version} ${trying}`} />;
}
