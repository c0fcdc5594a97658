import { Button, Checkbox, Tooltip } from "antd";
import { replaceEqualDeep } from "@tanstack/react-query";
import { memo, useEffect, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { AngleView } from "../../api/client";
import { useCommands, useEdit, useProject } from "../../api/project";
import { ItemCard } from "../../parts/broll/ItemCard";
import { type Item, itemsOf } from "../../parts/broll/items";
import { lookAt } from "../../parts/broll/looking";
import { barBeat, timecode } from "../../parts/format";
import { clock, useClock } from "../../player/clock";
import { seenAt, spanAt } from "../../player/layers";
import { frameAt } from "../../player/timemap";
import { Picture } from "../../player/Picture";
import { canDecode } from "../../player/proxy";
import { hueOf } from "../../theme";
import { useSheetActions } from "./actions";
import { onKeys, sectionAt } from "./keys";
import { awayFor, lengthOf, summary, wholeShots } from "./passage";
import { ShotMenu } from "./ShotMenu";
import { inWords } from "./treating/kinds";
import { useChoice } from "./choice";
import styles from "./Viewer.module.css";
import { classes } from "../../parts/classes";
import { TextButton } from "../../parts/TextButton";

const cx = classes(styles);

/** The programme, the wall of angles, the facts of the selected shot, and B-roll. */
export function Viewer() {
  const { id, state, rate } = useProject();
  const edit = useEdit();
  const known = useRef<Item[]>([]);
  // What did not change of them is not drawn again for every cut.
  const items = useMemo(() => {
    known.current = replaceEqualDeep(known.current, itemsOf(state.media, state.selects, edit)) as Item[];
    return known.current;
  }, [state.media, state.selects, edit]);
  const trial = useChoice((c) => c.trial);
  const layers = useMemo(() => trial ?? edit?.programme.layers ?? [], [trial, edit]);
  const frame = useFrame(rate);
  const seen = seenAt(layers, frame, 16 / 9).findLast(
    ({ span }) => span.kind === "picture" || span.kind === "black",
  )?.span;
  const shots = edit?.shots ?? [];
  const index = shots.findIndex((s) => frame >= s.start && frame < s.end);
  const shot = shots[index];
  const on = state.angles.find((a) => a.id === shot?.source.angle);
  const file = state.media.find((m) => m.id === seen?.media);
  const media = (kind: string) =>
    kind === "angle" && on ? `${on.number} ${on.name}` : (file?.name ?? (seen ? "black" : "no picture"));
  const section = sectionAt(state.song, frame / rate);
  const wall = useMemo(() => onKeys(state.angles, state.keys[section]), [state.angles, state.keys, section]);
  const over = edit?.cutaways.some((c) => frame >= c.start && frame < c.end);
  return (
    <aside className={cx("viewer")}>
      <Picture
        project={id}
        layers={layers}
        rate={rate}
        size="programme"
        length={state.length}
        label="Programme"
        id="programme"
      />
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
      <div className={cx("wall")} data-count={wall.length > 4 ? "many" : "few"}>
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
      <ShotFacts />
      <Broll items={items} />
      <LayButtons />
    </aside>
  );
}

/** What can be laid, below the wall. */
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

/** The programme frame at the playhead, told no oftener than the page can use. */
export function useFrame(rate: number): number {
  const [frame, setFrame] = useState(() => frameAt(clock.position(), rate));
  useEffect(() => {
    let last = 0;
    return clock.subscribe((at) => {
      const now = performance.now();
      if (useClock.getState().playing && now - last < 80) return;
      last = now;
      setFrame(frameAt(at, rate));
    });
  }, [rate]);
  return frame;
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
  const { id, state, rate } = useProject();
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
      <Picture
        project={id}
        layers={layers}
        rate={rate}
        size={large ? "programme" : "wall"}
        length={state.length}
        label={angle.name}
      />
      <span className={large ? cx("key-badge") : "shot-badge"}>{large ? button : angle.number}</span>
      <span className={cx("wall-name")}>
        {here ? angle.name : `${angle.name}: nothing here`}
        {button !== angle.number && (large ? ` · angle ${angle.number}` : ` · key ${button}`)}
      </span>
    </button>
  );
});

function ShotFacts() {
  const { state, rate, operate } = useProject();
  const edit = useEdit();
  const cutaway = useChoice((c) => c.cutaway);
  const range = useChoice((c) => c.range);
  const frame = useFrame(rate);
  const shots = edit?.shots ?? [];
  const index = shots.findIndex((s) => frame >= s.start && frame < s.end);
  const shot = shots[index];
  const song = state.song;
  const nudge = async (start: number, edge: "in" | "all" | "out", frames: number) => {
    if (!(await operate({ op: "move cutaway", start, frames, edge }))) return;
    if (edge !== "out") useChoice.setState({ cutaway: start + frames });
  };
  if (range && song && edit) {
    const chosen = wholeShots(range, shots);
    return (
      <div className={cx("facts")} data-testid="chosen-shots">
        <h3>Shots chosen together</h3>
        <p>{summary(song, edit, { ...chosen, name: "" }, rate)}</p>
        <p>
          {lengthOf(song, { start: chosen.first, end: chosen.end }, rate)} in all, from {timecode(chosen.first, rate)}
        </p>
        <div className="buttons">
          <Button size="small" onClick={() => void operate({ op: "clear", first: chosen.first, end: chosen.end })}>
            Empty them
          </Button>
          <Button size="small" onClick={() => useChoice.setState({ range: null })}>
            Choose one again
          </Button>
          <span className="soft">Passage… works on them.</span>
        </div>
      </div>
    );
  }
  if (cutaway !== null) {
    const over = edit?.cutaways.find((c) => c.start === cutaway);
    const clip = state.media.find((m) => m.id === over?.source.media);
    if (over) {
      return (
        <div className={cx("facts")}>
          <h3>Cutaway · {clip?.name}</h3>
          <dl>
            <dt>From</dt>
            <dd className="mono">
              {timecode(over.start, rate)} · {over.end - over.start} f
            </dd>
            <dt>Clip in</dt>
            <dd className="mono">{over.source.in_s.toFixed(2)} s</dd>
            <dt>Treated</dt>
            <dd title={inWords(over)}>
              {over.treated ? inWords(over) : "not"}{" "}
              <TextButton onClick={() => useChoice.setState({ treating: "here" })} title="Key E">
                {over.treated ? "change" : "treat it…"}
              </TextButton>
            </dd>
          </dl>
          <div className="buttons">
            <Button
              size="small"
              onClick={() => {
                void operate({ op: "take off", start: over.start });
                useChoice.setState({ cutaway: null });
              }}
            >
              Take off
            </Button>
            <Button size="small" onClick={() => void operate({ op: "drop", start: over.start })} data-testid="drop">
              Drop into the base
            </Button>
            <Button size="small" onClick={() => void operate({ op: "split cutaway", start: over.start, at: frame })}>
              Split here
            </Button>
          </div>
          <div className="buttons">
            {(["in", "all", "out"] as const).map((edge) => (
              <span key={edge} className={cx("nudge")}>
                <Button
                  size="small"
                  onClick={() => void nudge(over.start, edge, -1)}
                  aria-label={`${edge} a frame earlier`}
                >
                  ◂
                </Button>
                {edge === "all" ? "move" : edge}
                <Button
                  size="small"
                  onClick={() => void nudge(over.start, edge, 1)}
                  aria-label={`${edge} a frame later`}
                >
                  ▸
                </Button>
              </span>
            ))}
          </div>
        </div>
      );
    }
  }
  if (!shot || !song)
    return (
      <div className={cx("facts")}>
        <p className="soft">Click a shot to see what it shows.</p>
      </div>
    );
  const angle = state.angles.find((a) => a.id === shot.source.angle);
  const span = angle ? spanAt(angle.spans, shot.start) : undefined;
  const take = state.takes.find((t) => t.media === span?.media);
  const pass = take?.passes.find(
    (p) => span && p.song_start_s <= (span.start + 1) / rate && p.song_end_s >= (span.start + 1) / rate,
  );
  const clip = state.media.find((m) => m.id === (shot.source.media ?? span?.media));
  const also = state.angles.filter(
    (a) => a.id !== angle?.id && spanAt(a.spans, shot.start) && spanAt(a.spans, shot.end - 1),
  );
  const next = shots[index + 1];
  const away = awayFor(song, shots, index, rate);
  const spread = pass?.residuals.length ? Math.max(...pass.residuals.map(([, r]) => Math.abs(r ?? 0))) * 1000 : 0;
  return (
    <div className={cx("facts")} data-testid="facts">
      <h3>
        Shot {index + 1} · bar {barBeat(song, (shot.start + 0.5) / rate)}
      </h3>
      <dl>
        <dt>Source</dt>
        <dd>
          {angle ? (
            <>
              <b style={{ color: hueOf(angle.hue) }}>{angle.number}</b> {angle.name} · {clip?.name ?? "no take here"}
            </>
          ) : (
            (clip?.name ?? (shot.source.kind === "empty" ? "an empty slot" : "black"))
          )}
        </dd>
        <dt>In</dt>
        <dd className="mono">
          {timecode(shot.start, rate)} · {shot.label}
        </dd>
        <dt>Out</dt>
        <dd className="mono">
          {timecode(shot.end, rate)} · {next ? next.label : "end of the song"}
        </dd>
        {pass && (
          <>
            <dt>Lips</dt>
            <dd>
              {shot.treated?.pieces ? (
                <span className="bad">off the song by its treatment</span>
              ) : shot.source.slip ? (
                <span className="bad">
                  out of sync on purpose, {Math.abs(shot.source.slip)} f {shot.source.slip > 0 ? "late" : "early"}
                </span>
              ) : (
                <>
                  <span className="good">●</span> in sync by its pass, within {spread.toFixed(1)} ms
                  {pass.origin === "by hand" ? ", by hand" : ""}
                </>
              )}
            </dd>
          </>
        )}
        <dt>Length</dt>
        <dd>
          {lengthOf(song, shot, rate)}
          {away === null ? "" : ` · away ${away < 1 ? "less than a bar" : `${away.toFixed(1)} bars`}`}
        </dd>
        <dt>Treated</dt>
        <dd title={inWords(shot)}>
          {shot.treated ? inWords(shot) : "not"}{" "}
          <TextButton onClick={() => useChoice.setState({ treating: "here" })} data-testid="treat" title="Key E">
            {shot.treated ? "change" : "treat it…"}
          </TextButton>
        </dd>
        <dt>Also here</dt>
        <dd>
          {also.length ? also.map((a) => `${a.number} ${a.name}`).join(" · ") : "no other angle covers all of it"}
        </dd>
      </dl>
      <div className="buttons">
        <ShotButtons first={index < 1} held={shot.held} />
        <ShotMenu shot={shot} next={next} key={shot.start} />
      </div>
    </div>
  );
}

const ShotButtons = memo(function ShotButtons({ first, held }: { first: boolean; held: boolean }) {
  const actions = useSheetActions();
  return (
    <>
      <Tooltip title="Key /">
        <Button size="small" type="primary" data-testid="cut-here" onClick={() => void actions.cutHere()}>
          Cut here /
        </Button>
      </Tooltip>
      <Tooltip title="Key \: the shot before runs on">
        <Button size="small" disabled={first} onClick={() => void actions.join()}>
          Join \
        </Button>
      </Tooltip>
      <Button size="small" onClick={() => void actions.hold()}>
        {held ? "Let go" : "Hold this shot"}
      </Button>
    </>
  );
});
