import { Input } from "antd";
import { type ReactNode, useState } from "react";
import { useProject } from "../api/project";
import { clock } from "../player/clock";
import { classes } from "./classes";
import styles from "./GoTo.module.css";
import { useCommandKeys } from "./keys";
import { placeOf } from "./places";

const cx = classes(styles);

/** The place of the playhead, which a click or the key W lets one type: a bar, a time, a mark, a section. */
export function GoTo({ children }: { children: ReactNode }) {
  const { state, rate } = useProject();
  const [typing, setTyping] = useState(false);
  const [wrong, setWrong] = useState(false);
  const song = state.song;
  const open = (on: boolean) => {
    setTyping(on);
    setWrong(false);
  };
  useCommandKeys("The song", [
    { keys: "w", words: "Go to a bar, a time, a mark or a section", run: () => (song ? open(true) : false) },
  ]);
  const go = (text: string) => {
    const at = song && placeOf(text, song, rate);
    if (at === undefined || at === null) return setWrong(true);
    clock.seek(at + 1e-3 / rate);
    open(false);
  };
  return (
    <>
      <button
        type="button"
        className={cx("place")}
        onClick={() => song && open(true)}
        title="Go to a bar (17.3), a time (0:41, 41 s, 980 f), a mark or a section: type it. Key W"
      >
        {children}
      </button>
      {typing && (
        <div className={cx("typed")}>
          <Input
            size="small"
            autoFocus
            status={wrong ? "error" : ""}
            placeholder="17.3, 0:41, a mark"
            onChange={() => setWrong(false)}
            onPressEnter={(e) => go(e.currentTarget.value)}
            onKeyDown={(e) => e.key === "Escape" && open(false)}
            onBlur={() => open(false)}
            aria-label="Place to go to"
            data-testid="go-to"
          />
          {wrong && <span className="bad">no such bar, time, mark or section</span>}
        </div>
      )}
    </>
  );
}
