import { Button } from "antd";
import { classes } from "../../../parts/classes";
import { LayoutChoice } from "../LayoutChoice";
import styles from "./Colour.module.css";
import { STAGE_WORDS, STAGES, type Stage } from "./stages";

const cx = classes(styles);

interface Props {
  off: ReadonlySet<Stage>;
  filmed: boolean;
  setFilmed: (on: boolean) => void;
  toggle: (stage: Stage) => void;
  line: number | null;
  setLine: (line: number | null) => void;
  clipped: boolean;
  setClipped: (on: boolean) => void;
  /** Keep the picture; null where there is none. */
  keep: (() => unknown) | null;
  /** Cuts that jump, and the way to the worst of them. */
  far: number;
  worst: () => void;
}

/** What is seen of the colour: its stages, the split, what is clipped, stills, and the cuts that jump. */
export function Tools(props: Props) {
  const { off, filmed, setFilmed, toggle, line, setLine, clipped, setClipped, keep, far, worst } = props;
  return (
    <div className="tools">
      <h2>Colour</h2>
      <Button
        size="small"
        aria-pressed={filmed}
        type={filmed ? "primary" : "default"}
        onClick={() => setFilmed(!filmed)}
        title="v"
        data-testid="as-filmed"
      >
        {filmed ? "As filmed" : "As graded"}
      </Button>
      <span className={cx("stages")} role="group" aria-label="Stages of colour that are seen">
        {STAGES.map((stage) => (
          <Button
            key={stage}
            size="small"
            aria-pressed={!off.has(stage)}
            className={off.has(stage) ? cx("left-out") : undefined}
            onClick={() => toggle(stage)}
            title={`${STAGE_WORDS[stage]}: ${off.has(stage) ? "left out" : "seen"} · Shift+${stage[0]}`}
            data-testid={`stage-${stage}`}
          >
            {stage}
          </Button>
        ))}
      </span>
      <Button
        size="small"
        aria-pressed={line !== null}
        onClick={() => setLine(line === null ? 0.5 : null)}
        title="s"
        data-testid="split"
      >
        Split
      </Button>
      <Button
        size="small"
        aria-pressed={clipped}
        type={clipped ? "primary" : "default"}
        onClick={() => setClipped(!clipped)}
        title="c"
        data-testid="mark-clipped"
      >
        Clipped
      </Button>
      <Button size="small" onClick={() => keep?.()} disabled={!keep} title="q" data-testid="keep-still">
        Keep
      </Button>
      <Button size="small" onClick={worst} disabled={!far} title="u" data-testid="worst">
        {far ? `${far} cuts jump: the worst` : "no cut jumps"}
      </Button>
      <span className="grow" />
      <LayoutChoice />
    </div>
  );
}
