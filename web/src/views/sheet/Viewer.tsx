import { shotsOf, itemsOn } from "../../api/lanes";
import { memo, useMemo } from "react";
import type { AngleView } from "../../api/client";
import { useEdit, useProject } from "../../api/project";
import { seenAt, spanAt } from "../../player/layers";
import { Picture } from "../../player/Picture";
import { canDecode } from "../../player/proxy";
import { useWithout } from "../../player/without";
import { hueOf } from "../../theme";
import { useSheetActions } from "./actions";
import { ClipBench } from "./ClipBench";
import { onKeys, sectionAt } from "./keys";
import { useChoice } from "./choice";
import { CardBox } from "./titles/CardBox";
import { Facts } from "./Facts";
import { PlaceBox } from "./PlaceBox";
import { useFrame } from "../../player/useFrame";
import styles from "./Viewer.module.css";
import { classes } from "../../parts/classes";
import { TextButton } from "../../parts/TextButton";

const cx = classes(styles);

/** The programme, and under it the wall of angles and the facts of the selected shot, or the bench of a clip. */
export function Viewer() {
  const { id, state, rate } = useProject();
  const edit = useEdit();
  const bench = useChoice((c) => (c.bench ? state.media.find((m) => m.id === c.clip) : undefined));
  const trial = useChoice((c) => c.trial);
  const layers = useMemo(() => trial ?? edit?.programme.layers ?? [], [trial, edit]);
  const frame = useFrame(rate);
  const seen = seenAt(layers, frame, state.width / state.height).findLast(
    ({ span }) => span.kind === "picture" || span.kind === "black",
  )?.span;
  const without = useWithout((w) => w.steps);
  const shots = shotsOf(edit);
  const index = shots.findIndex((s) => frame >= s.start && frame < s.end);
  const shot = shots[index];
  const on = state.angles.find((a) => a.id === shot?.source.angle);
  const file = state.media.find((m) => m.id === seen?.media);
  const media = (kind: string) =>
    kind === "angle" && on ? `${on.number} ${on.name}` : (file?.name ?? (seen ? "black" : "no picture"));
  const section = sectionAt(state.song, frame / rate);
  const wall = useMemo(() => onKeys(state.angles, state.keys[section]), [state.angles, state.keys, section]);
  const over = itemsOn(edit, "over").some((c) => frame >= c.start && frame < c.end);
  // What is seen through, or smaller than the film, is placed where it is chosen.
  const item = useChoice((c) => c.item);
  const chosen = itemsOn(edit, "over").find((i) => i.id === item && frame >= i.start && frame < i.end);
  const title = itemsOn(edit, "titles").find((i) => i.id === item && frame >= i.start && frame < i.end);
  const laid = state.media.find((m) => m.id === chosen?.source.media);
  const placed = laid && !laid.fit.to && (laid.alpha || laid.fit.how === "own") ? laid : null;
  const uncut = edit !== undefined && !layers.some((layer) => layer.some((span) => span.kind === "picture"));
  return (
    <aside className={cx("viewer")}>
      <div className={cx("framed")}>
        <Picture layers={layers} size="programme" label="Programme" id="programme" />
        {uncut && (
          <p className={cx("uncut")} data-testid="uncut">
            Nothing is cut yet. Press the number of an angle while the song plays or stands, lay clips, or let “plan”
            make a first cut.
          </p>
        )}
        {title && <CardBox item={title} key={title.id} />}
        {placed && <PlaceBox file={placed} key={placed.id} />}
      </div>
      {without.length > 0 && (
        <p className={cx("viewer-note")} data-testid="without-steps">
          This browser has no WebGL2, so {without.join(", ")} {without.length > 1 ? "are" : "is"} not shown here. The
          film has {without.length > 1 ? "them" : "it"}.
        </p>
      )}
      {!canDecode && (
        <p className={cx("viewer-note")}>
          This browser cannot decode single frames, so stills are shown. Open the page on localhost in a browser with
          WebCodecs for live pictures.
        </p>
      )}
      <div className={cx("viewer-line")}>
        <span>
          <b>Programme</b> · {over ? `over: ${file?.name ?? ""}` : media(shot?.source.kind ?? "black")}
        </span>
        <TextButton
          onClick={() => window.open(`/p/${id}/screen`, `zembi-screen-${id}`, "popup,width=960,height=560")}
          title="The programme alone in a second window; F shows it on the full screen"
          data-testid="second-window"
        >
          second window
        </TextButton>
        <span className="mono">
          {shot
            ? `shot ${index + 1} of ${shots.length} · ${((shot.end - shot.start) / rate).toFixed(2)} s`
            : frame < 0
              ? "before the song"
              : "after the song"}
        </span>
      </div>
      {bench ? (
        <ClipBench clip={bench} key={bench.id} />
      ) : (
        <>
          <div
            className={cx("wall")}
            data-count={wall.length > 4 ? "many" : "few"}
            data-shape={state.width < state.height ? "upright" : "wide"}
          >
            {wall.map(({ angle: a, key }) => (
              <WallPicture
                key={a.id}
                angle={a}
                button={key}
                on={a.id === on?.id}
                here={spanAt(a.spans, frame) !== undefined}
              />
            ))}
          </div>
          <Facts />
        </>
      )}
    </aside>
  );
}

/** An angle live at the playhead; a click switches to it. */
export const WallPicture = memo(function WallPicture({
  angle,
  button,
  on,
  here,
  large,
  many,
}: {
  angle: AngleView;
  button: number;
  on: boolean;
  here: boolean;
  large?: boolean;
  /** True where it is one of so many that it is no larger than on a small wall. */
  many?: boolean;
}) {
  const actions = useSheetActions();
  const layers = useMemo(() => [angle.spans], [angle.spans]);
  return (
    <button
      type="button"
      className={cx(on ? "wall-picture on" : "wall-picture")}
      onClick={() => void actions.switchTo(angle.id)}
      style={{ ["--hue" as string]: hueOf(angle.hue) }}
      data-testid={`wall-${angle.number}`}
      aria-pressed={on}
    >
      <Picture layers={layers} size={large && !many ? "programme" : "wall"} label={angle.name} />
      <span className={large ? cx("key-badge") : "shot-badge"}>{large ? button : angle.number}</span>
      <span className={cx("wall-name")}>
        {here ? angle.name : `${angle.name}: nothing here`}
        {button !== angle.number && (large ? ` · angle ${angle.number}` : ` · key ${button}`)}
      </span>
    </button>
  );
});
