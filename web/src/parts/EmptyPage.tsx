import { Button } from "antd";
import type { ReactNode } from "react";
import { useNavigate } from "react-router";
import { useProject } from "../api/project";
import styles from "./EmptyPage.module.css";
import { classes } from "./classes";
import { type Step, Way } from "./Way";

const cx = classes(styles);

/** A view with nothing in it yet: what to do first, and how far the project is on the way to a film. */
export function EmptyPage({ title, now, children }: { title: string; now: Step; children?: ReactNode }) {
  const { id, state } = useProject();
  return (
    <div className={cx("empty-page")}>
      <div className={cx("first")}>
        <p>{title}</p>
        {children}
      </div>
      <Way project={id} state={state.badges} now={now} />
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
