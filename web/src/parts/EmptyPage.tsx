import { Button } from "antd";
import type { ReactNode } from "react";
import { useNavigate } from "react-router";
import { useProject } from "../api/project";
import styles from "./EmptyPage.module.css";
import { classes } from "./classes";

const cx = classes(styles);

/** A view with nothing in it yet: what it is for, and what to do first. */
export function EmptyPage({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className={cx("empty-page")}>
      <Drawing />
      <p>{title}</p>
      {children && <div className={cx("empty-actions")}>{children}</div>}
    </div>
  );
}

/** The way to the Song view, where everything begins. */
export function GoToSong() {
  const { id } = useProject();
  const go = useNavigate();
  return (
    <Button type="primary" onClick={() => go(`/p/${id}/song`)}>
      Go to the song
    </Button>
  );
}

/** Two lines of an unmarked lyric sheet, a pencil stroke through the second. */
function Drawing() {
  const bars = [0, 1, 2, 3, 4];
  return (
    <svg width="220" height="96" viewBox="0 0 220 96" aria-hidden="true" className={cx("empty-drawing")}>
      {[24, 72].map((y) => (
        <g key={y}>
          <path d={`M10 ${y}H210`} className={cx("empty-rule")} />
          {bars.map((b) => (
            <path key={b} d={`M${10 + 50 * b} ${y - 12}V${y}`} className={cx(b ? "empty-rule" : "empty-line")} />
          ))}
        </g>
      ))}
      <path d="M62 52C78 40 90 66 106 54S138 44 152 58" className={cx("empty-pencil")} />
      <path d="M152 58l9 3-5 7z" className={cx("empty-tip")} />
    </svg>
  );
}
