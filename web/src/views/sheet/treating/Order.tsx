import { Button } from "antd";
import { classes } from "../../../parts/classes";
import { offered, reordered, type Treatment } from "./kinds";
import { Glyph } from "./Sign";
import styles from "./Treating.module.css";

const cx = classes(styles);

interface Props {
  list: Treatment[];
  /** Index of the one that is open. */
  at: number;
  /** Effect of each, in words. */
  said: readonly string[] | undefined;
  choose: (number: number) => void;
  write: (treatments: Treatment[]) => Promise<unknown>;
}

/** Treatments in their order: chosen, brought nearer to the picture, switched off, taken away. */
export function Order({ list, at, said, choose, write }: Props) {
  return (
    <ol className={cx("list")}>
      {list.map((t, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: treatments are known by their order
        <li key={i} className={cx("entry")} data-on={i === at} data-off={t.off} data-testid={`treatment-${i}`}>
          <Glyph kind={t.kind} />
          <button type="button" className={cx("word")} onClick={() => choose(i)} title={said?.[i]}>
            {offered(t.kind).word}
          </button>
          <Button
            type="text"
            size="small"
            className={cx("small")}
            disabled={i === 0}
            onClick={() => void write(reordered(list, i, i - 1)).then(() => choose(i - 1))}
            aria-label={`${t.kind} earlier in the order`}
            title="Earlier: nearer to the picture"
          >
            ↑
          </Button>
          <Button
            type="text"
            size="small"
            className={cx("small")}
            onClick={() => void write(list.map((o, k) => (k === i ? { ...o, off: !o.off } : o)))}
            aria-label={t.off ? `${t.kind} on` : `${t.kind} off`}
            title={t.off ? "Switch on" : "Switch off; it is kept"}
          >
            {t.off ? "○" : "●"}
          </Button>
          <Button
            type="text"
            size="small"
            className={cx("small")}
            onClick={() => void write(list.filter((_, k) => k !== i))}
            aria-label={`Take ${t.kind} away`}
            title="Take it away"
          >
            ×
          </Button>
        </li>
      ))}
    </ol>
  );
}
