import { Button, Select, Slider } from "antd";
import { NumberField } from "../NumberField";
import { api, data, type MediaView } from "../../api/client";
import { useProject } from "../../api/project";
import { within } from "../../api/facts";
import { classes } from "../classes";
import { filling, whole } from "./framing";
import styles from "./ClipFit.module.css";

const cx = classes(styles);

type Fit = MediaView["fit"];

/** Framing of a file in the film: whole with bars, filling the frame, or at its own scale; turned where it is wrong. */
export function ClipFit({ clip }: { clip: MediaView }) {
  const { id, state, act } = useProject();
  const params = { path: { project_id: id, media_id: clip.id } };
  const set = (change: Partial<Fit>) =>
    act(() =>
      data(
        api.PUT("/api/v1/projects/{project_id}/media/{media_id}/fit", {
          params,
          body: { ...clip.fit, ...change, turn: (change.turn ?? clip.fit.turn) as 0 },
        }),
      ),
    );
  const shares = whole(clip, [state.width, state.height]);
  if (clip.fit.to)
    return (
      <div className={cx("notes")} data-testid="fit">
        <div className={cx("line")}>
          <span>A slow move over it</span>
          <span className="grow" />
          <Button size="small" onClick={() => void set({ how: "fill", scale: 1, x: 0.5, y: 0.5, to: null })}>
            No move
          </Button>
        </div>
        {(["begins", "ends"] as const).map((when) => (
          <div key={when} className={cx("line")}>
            <span className={cx("axis")}>{when}</span>
            <NumberField
              size="small"
              {...within("scale")}
              step={0.05}
              value={(when === "begins" ? clip.fit.scale : clip.fit.to?.scale) ?? 1}
              change={(scale) =>
                scale && clip.fit.to && void set(when === "begins" ? { scale } : { to: { ...clip.fit.to, scale } })
              }
              suffix="times"
              aria-label={`Scale where it ${when}`}
            />
          </div>
        ))}
        <div className={cx("line")}>
          <Button
            size="small"
            onClick={() =>
              clip.fit.to && void set({ ...clip.fit.to, to: { x: clip.fit.x, y: clip.fit.y, scale: clip.fit.scale } })
            }
          >
            The other way
          </Button>
          <Button size="small" onClick={() => void set({ turn: (clip.fit.turn + 90) % 360 })}>
            Turn
          </Button>
        </div>
      </div>
    );
  const begin = filling(shares);
  const moves = clip.fit.how !== "bars";
  return (
    <div className={cx("notes")} data-testid="fit">
      <div className={cx("line")}>
        <Select
          size="small"
          value={clip.fit.how}
          onChange={(how) => void set({ how })}
          options={[
            { value: "bars", label: "whole, bars where it differs" },
            { value: "fill", label: "fills the frame" },
            { value: "own", label: "at its own scale" },
          ]}
          aria-label="Fit"
        />
        <Button size="small" onClick={() => void set({ turn: (clip.fit.turn + 90) % 360 })}>
          Turn
        </Button>
      </div>
      {clip.still && (
        <Button
          size="small"
          onClick={() =>
            void set({
              how: "own",
              scale: begin,
              x: 0.5,
              y: 0.5,
              to: { x: 0.5, y: 0.45, scale: Math.min(10, Math.round(1200 * begin) / 1000) },
            })
          }
          data-testid="slow-move"
        >
          Move slowly over it
        </Button>
      )}
      {clip.fit.how === "own" && (
        <NumberField
          size="small"
          {...within("scale")}
          step={0.05}
          value={clip.fit.scale}
          change={(scale) => scale && void set({ scale })}
          suffix="times"
          aria-label="Scale"
        />
      )}
      {moves &&
        (["x", "y"] as const).map((axis) => (
          <div key={axis} className={cx("line")}>
            <span className={cx("axis")}>{axis === "x" ? "across" : "up"}</span>
            <Slider
              className={cx("slide")}
              {...within("share")}
              step={0.01}
              defaultValue={clip.fit[axis]}
              key={clip.fit[axis]}
              onChangeComplete={(v) => void set({ [axis]: v })}
              tooltip={{ formatter: (v) => `${Math.round(100 * (v ?? 0))} %` }}
              ariaLabelForHandle={axis === "x" ? "Middle, across" : "Middle, up and down"}
            />
          </div>
        ))}
    </div>
  );
}
