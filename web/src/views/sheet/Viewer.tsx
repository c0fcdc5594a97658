import { shotsOf, itemsOn } from "../../api/lanes";
import { Button, Checkbox } from "antd";
import { replaceEqualDeep } from "@tanstack/react-query";
import { memo, useMemo, useRef } from "react";
import { useNavigate } from "react-router";
import type { AngleView } from "../../api/client";
import { useCommands, useEdit, useProject } from "../../api/project";
import { ItemCard } from "../../parts/broll/ItemCard";
import { type Item, itemsOf } from "../../parts/broll/items";
import { lookAt } from "../../parts/broll/looking";
import { seenAt, spanAt } from "../../player/layers";
import { Picture } from "../../player/Picture";
import { canDecode } from "../../player/proxy";
import { useWithout } from "../../player/without";
import { hueOf } from "../../theme";
import { useSheetActions } from "./actions";
import { onKeys, sectionAt } from "./keys";
import { useChoice } from "./choice";
import { Facts } from "./Facts";
import { useFrame } from "../../player/useFrame";
import styles from "./Viewer.module.css";
import { classes } from "../../parts/classes";
import { TextButton } from "../../parts/TextButton";

const cx = classes(styles);

/** The programme, the wall of angles, the facts of the selected shot, and B-roll. */
export function Viewer() {
  const { id, state, rate } = useProject();
  const edit = useEdit();
  const known = useRef<Item[]>([]);
  // Memoised: those that did not change are not drawn again for every cut.
  const items = useMemo(() => {
    known.current = replaceEqualDeep(known.current, itemsOf(state.media, state.selects, edit)) as Item[];
    return known.current;
  }, [state.media, state.selects, edit]);
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
  return (
    <aside className={cx("viewer")}>
      <Picture layers={layers} size="programme" label="Programme" id="programme" />
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
          shot {index + 1} of {shots.length} · {shot ? ((shot.end - shot.start) / rate).toFixed(2) : "0"} s
        </span>
      </div>
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
      <Broll items={items} />
      <LayButtons />
    </aside>
  );
}

/** Clips that can be laid, below the wall. */
const Broll = memo(function Broll({ items }: { items: Item[] }) {
  const { id } = useCommands();
  const navigate = useNavigate();
  const many = useChoice((c) => c.many);
  const thenNext = useChoice((c) => c.thenNext);
  const chosen = useChoice((c) => (c.select ? `s${c.select}` : `m${c.clip}`));
  return (
    <>
      <div className={cx("viewer-line")}>
        <span>
          <b>B-roll</b> · {items.length} to lay
        </span>
        <Checkbox
          checked={thenNext}
          onChange={(e) => useChoice.setState({ thenNext: e.target.checked })}
          data-testid="then-next"
        >
          <span title="B lays the chosen one over, Shift+B into the shot; then the next one is chosen">
            B lays it, then the next
          </span>
        </Checkbox>
      </div>
      <div className={cx("viewer-clips")}>
        {items.map((item) => (
          <ItemCard
            key={item.key}
            item={item}
            width={104}
            on={chosen === item.key}
            chosen={many.some((m) => m.key === item.key)}
            open={(_, event) => {
              const one = { media: item.clip.id, select: item.select?.id ?? null };
              if (event.shiftKey) useChoice.setState({ many: upTo(items, many, item.key) });
              else if (event.ctrlKey || event.metaKey)
                useChoice.setState({ many: toggled(many, { ...one, key: item.key }) });
              else useChoice.setState({ clip: one.media, select: one.select, many: [] });
            }}
            look={() => {
              lookAt(item.clip.id, item.select?.id ?? null);
              navigate(`/p/${id}/coverage`);
            }}
          />
        ))}
        {!items.length && <span>No B-roll yet: add it on Coverage.</span>}
      </div>
    </>
  );
});

type Many = ReturnType<typeof useChoice.getState>["many"];

function toggled(many: Many, one: Many[number]): Many {
  return many.some((m) => m.key === one.key) ? many.filter((m) => m.key !== one.key) : [...many, one];
}

/** All from the one chosen last up to another, in the order of the list. */
function upTo(items: readonly Item[], many: Many, key: string): Many {
  const { clip, select } = useChoice.getState();
  const last = many.at(-1)?.key ?? (select ? `s${select}` : `m${clip}`);
  const [from, to] = [items.findIndex((i) => i.key === last), items.findIndex((i) => i.key === key)];
  const range = items.slice(Math.max(0, Math.min(from, to)), Math.max(from, to) + 1);
  const fresh = (from > to ? range.reverse() : range).filter((i) => !many.some((m) => m.key === i.key));
  return [...many, ...fresh.map((i) => ({ media: i.clip.id, select: i.select?.id ?? null, key: i.key }))];
}

function LayButtons() {
  const chosen = useChoice((c) => c.clip);
  const actions = useSheetActions();
  if (!chosen) return null;
  return (
    <div className={cx("buttons viewer-lay")}>
      <Button size="small" data-testid="lay-over" onClick={() => void actions.layOver()}>
        Lay over at the playhead
      </Button>
      <Button size="small" data-testid="lay-into" onClick={() => void actions.layInto()}>
        Lay into the shot
      </Button>
    </div>
  );
}

/** An angle live at the playhead; a click switches to it. */
export const WallPicture = memo(function WallPicture({
  angle,
  button,
  on,
  here,
  large,
}: {
  angle: AngleView;
  button: number;
  on: boolean;
  here: boolean;
  large?: boolean;
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
      aria-label={`Angle ${angle.number}, ${angle.name}`}
    >
      <Picture layers={layers} size={large ? "programme" : "wall"} label={angle.name} />
      <span className={large ? cx("key-badge") : "shot-badge"}>{large ? button : angle.number}</span>
      <span className={cx("wall-name")}>
        {here ? angle.name : `${angle.name}: nothing here`}
        {button !== angle.number && (large ? ` · angle ${angle.number}` : ` · key ${button}`)}
      </span>
    </button>
  );
});
