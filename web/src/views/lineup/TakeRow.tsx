import { Checkbox } from "antd";
import type { PassView, TakeView } from "../../api/client";
import { useProject } from "../../api/project";
import { CONDITION, signed } from "../../parts/format";
import { Still } from "../../parts/Still";
import { hueOf } from "../../theme";
import { useLineupActions } from "./actions";
import { STATUS, spots, sureness } from "./lineup";
import styles from "./TakeRow.module.css";
import { classes } from "../../parts/classes";
import { TextButton } from "../../parts/TextButton";

const cx = classes(styles);

interface Props {
  take: TakeView;
  on: boolean;
  marked: boolean;
  choose: () => void;
  mark: (on: boolean) => void;
}

/** One take of the list: what it is, where it lies in the song, and how sure that is. */
export function TakeRow({ take, on, marked, choose, mark }: Props) {
  const { state } = useProject();
  const { again } = useLineupActions();
  const file = state.media.find((m) => m.id === take.media);
  const status = STATUS[take.status] ?? STATUS.waiting;
  const seconds = state.song?.seconds ?? 1;
  const angle = (p: PassView) => state.angles.find((a) => a.id === p.angle);
  const first = take.passes[0];
  if (!file || !status) return null;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the whole row is a larger place to click for the button in it
    // biome-ignore lint/a11y/useKeyWithClickEvents: the button in it takes the keys
    <div className={cx(on ? "take on" : "take")} onClick={choose} data-testid={`take-${file.name}`}>
      <Checkbox
        checked={marked}
        aria-label={`Mark ${file.name}`}
        onClick={(e) => e.stopPropagation()}
        onChange={(e) => mark(e.target.checked)}
      />
      <Still media={take.media} at={file.seconds / 2} width={86} />
      <div className={cx("take-middle")}>
        <div className={cx("take-name")}>
          <button type="button" className={cx("take-open")} aria-pressed={on} onClick={choose}>
            <b>{file.name}</b>
          </button>{" "}
          <span className="soft">
            {file.camera}
            {take.passes.length > 1 ? ` · ${take.passes.length} passes` : ""}
          </span>
        </div>
        <div className={cx("take-map")}>
          {spots(take).map((s) => (
            <span
              key={`${s.pass.id} ${s.start}`}
              className={cx(s.open ? "spot open" : "spot")}
              style={{
                left: `${(100 * Math.max(0, s.start)) / seconds}%`,
                width: `${(100 * (Math.min(seconds, s.end) - Math.max(0, s.start))) / seconds}%`,
                ...stair(take, s.pass),
                ["--hue" as string]: hueOf(angle(s.pass)?.hue ?? 6),
              }}
            />
          ))}
        </div>
        <div className={cx("soft mono take-facts")}>
          {file.condition !== "ok" ? (
            <span className="bad" title={file.trouble}>
              {CONDITION[file.condition]}
            </span>
          ) : take.status === "failed" ? (
            <span className="bad">{file.error}</span>
          ) : first ? (
            facts(first) + cuts(take)
          ) : take.status === "waiting" ? (
            "in the queue"
          ) : (
            `${file.seconds.toFixed(1)} s`
          )}
        </div>
      </div>
      <div className={cx("take-status")}>
        <span className={status.tone} data-testid="status">
          <span aria-hidden>{status.shape}</span> {status.word}
        </span>
        {take.passes.length > 0 && (
          <span className="mono">
            {take.status === "choose" && first?.proposed
              ? "by clock"
              : take.status === "choose" && first?.places.length
                ? `${first.places.length} places`
                : sureness(take.confidence)}
          </span>
        )}
        {(take.status === "failed" || take.status === "unmatched") && (
          <TextButton
            onClick={(e) => {
              e.stopPropagation();
              void again(take.media, take.status === "failed");
            }}
          >
            again
          </TextButton>
        )}
      </div>
    </div>
  );
}

/** Height and place of a pass in the strip: of a song cut on set each lies lower than the one played before it. */
function stair(take: TakeView, pass: PassView): { top?: number; height?: number } {
  if (!take.joints.length) return {};
  const step = 10 / take.passes.length;
  return { top: 1 + step * take.passes.indexOf(pass), height: Math.max(2, step) };
}

function cuts(take: TakeView): string {
  const [only] = take.joints;
  return only ? ` · ${take.joints.length > 1 ? `${take.joints.length} cuts on set` : only.words}` : "";
}

function facts(p: PassView): string {
  const at = `at ${signed(p.song_start_s - p.take_start_s, 3)} s`;
  const ppm = Math.abs(p.drift_ppm) >= 0.5 ? ` · ${signed(p.drift_ppm, 0)} ppm` : "";
  const rate = Math.abs(p.rate - 1) > 0.005 ? ` · ${p.rate.toFixed(3)}×` : "";
  return at + (rate || ppm) + (p.origin === "by hand" ? " · by hand" : "");
}
