import { Button, Space } from "antd";
import { useCallback, useEffect, useRef } from "react";
import { derivedUrl, type MediaView, type TakeView } from "../../api/client";
import { useProject } from "../../api/project";
import { clock } from "../../player/clock";
import { hueOf } from "../../theme";
import { useLineupActions } from "./actions";
import view from "./lineup.module.css";
import own from "./CutOnSet.module.css";
import { classes } from "../../parts/classes";

const cx = classes(view, own);

/** Seconds of the take that are heard before a joint, and after it. */
const BEFORE_S = 2;
const AFTER_S = 3;

type Joint = TakeView["joints"][number];

/** How the song was cut on set: the song above, the take's passes in their order below it, and each joint. */
export function CutOnSet({ take, file }: { take: TakeView; file: MediaView }) {
  const { state, rate } = useProject();
  const { place } = useLineupActions();
  const hear = useHearing(derivedUrl(state.id, file, "sound.wav"));
  const song = state.whole ?? state.song;
  if (!song) return null;
  const share = (s: number) => `${(100 * Math.min(song.seconds, Math.max(0, s))) / song.seconds}%`;
  const over = (start: number, end: number) => ({ left: share(start), width: share(end - Math.max(0, start)) });
  const move = (joint: Joint, seconds: number) => void place(joint.before, { action: "joint", seconds });
  return (
    <div className={cx("whole")} data-testid="cut-on-set">
      <div className={cx("window-head")}>
        <b>Cut on set</b>
        <span className="soft">the song above, the take in the order in which it was played below</span>
      </div>
      <div className={cx("cut")}>
        <div className={cx("cut-song")}>
          {song.sections.map((s) => (
            <span key={s.id} className={cx("cut-section")} style={over(s.start_s, s.end_s)}>
              {s.name}
            </span>
          ))}
          {take.joints.map((j) => (
            <span
              key={j.before}
              className={cx(j.kind === "twice" ? "cut-part twice" : "cut-part")}
              style={over(j.start_s, j.end_s)}
              title={j.words}
            />
          ))}
        </div>
        {take.passes.map((p, n) => (
          <div key={p.id} className={cx("cut-row")}>
            <span
              className={cx("cut-pass")}
              style={{
                ...over(p.song_start_s, p.song_end_s),
                ["--hue" as string]: hueOf(state.angles.find((a) => a.id === p.angle)?.hue ?? 6),
              }}
            >
              pass {n + 1}
            </span>
          </div>
        ))}
      </div>
      {take.joints.map((j) => (
        <div key={j.before} className={cx("cut-joint")} data-testid={`joint-${j.before}`}>
          <span data-testid="joint-words">{j.words}</span>
          <span className="grow" />
          <Button size="small" onClick={() => hear(j.take_s)} data-testid="hear-joint">
            Hear it
          </Button>
          <Space.Compact>
            <Button size="small" onClick={() => move(j, j.take_s - 1 / rate)} data-testid="joint-back">
              ◂ frame
            </Button>
            <Button
              size="small"
              disabled={Math.abs(j.on_beat_s - j.take_s) < 5e-4}
              onClick={() => move(j, j.on_beat_s)}
              data-testid="joint-on-beat"
            >
              to the beat
            </Button>
            <Button size="small" onClick={() => move(j, j.take_s + 1 / rate)} data-testid="joint-on">
              frame ▸
            </Button>
          </Space.Compact>
        </div>
      ))}
    </div>
  );
}

/** Play a take's own sound across a joint; the song, which does not jump there, pauses meanwhile. */
function useHearing(url: string): (take_s: number) => void {
  const sound = useRef<HTMLAudioElement | null>(null);
  const end = useRef<ReturnType<typeof setTimeout>>(undefined);
  const stop = useCallback(() => {
    clearTimeout(end.current);
    sound.current?.pause();
  }, []);
  useEffect(() => stop, [stop]);
  return (take_s) => {
    stop();
    clock.pause();
    const audio = new Audio(url);
    sound.current = audio;
    audio.currentTime = Math.max(0, take_s - BEFORE_S);
    void audio.play();
    end.current = setTimeout(stop, (BEFORE_S + AFTER_S) * 1000);
  };
}

/** Parts of the song that several takes leave out, offered as a cutdown of the film. */
export function AgreedCuts() {
  const { state } = useProject();
  const { leaveOut } = useLineupActions();
  return state.cuts_on_set.map((c) => (
    <div key={c.start_s} className={cx("cut-agreed")} data-testid="agreed-cut">
      <span>
        {c.takes.length === 2 ? c.takes.join(" and ") : `${c.takes.length} takes`} leave out {c.words}.
      </span>
      <Button size="small" onClick={() => void leaveOut(c.start_s, c.end_s)} data-testid="leave-out-too">
        Leave out of the film too
      </Button>
    </div>
  ));
}
