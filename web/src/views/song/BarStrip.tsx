import { Dropdown } from "antd";
import { useState } from "react";
import type { SongDetail, SongView } from "../../api/client";
import { HIT_KINDS } from "../../api/facts";
import { barLines, position } from "../../parts/format";
import { useCommandKeys } from "../../parts/keys";
import { clock, useClock } from "../../player/clock";
import type { SongActions } from "./actions";
import { type Sensitivities, strongHits } from "./paint";
import { nearestIndex, type View, xOf } from "./view";
import styles from "./BarStrip.module.css";
import { follow } from "../../parts/drag";
import { classes } from "../../parts/classes";

const cx = classes(styles);

const SNAP_PX = 9;
/** A beat is dragged to any clear stroke, not only to those strong enough to be drawn. */
const CLEAR = 0.2;
/** Offset of a bar's number from its line, and width of a digit of it, in pixels. */
const NUMBER_AT = 3;
const DIGIT_PX = 8;

/**
 * Bar numbers over the waveform, where the grid is taken by hand: drag to move all of it, Shift-drag to pin one beat
 * and bend the grid, a right click for what can be done to a bar.
 */
export function BarStrip({
  song,
  detail,
  sensitivities,
  view,
  width,
  correct,
  preview,
}: {
  song: SongView;
  detail: SongDetail | undefined;
  sensitivities: Sensitivities;
  view: View;
  width: number;
  correct: (...given: Parameters<SongActions["grid"]>) => void;
  preview: (moved: number) => void;
}) {
  const [menuAt, setMenuAt] = useState(0);
  const [bend, setBend] = useState<{ from: number; to: number } | null>(null);
  const loop = useClock((c) => c.loop);
  const scale = width / (view.to - view.from);
  const perBar = (width * 60 * song.metre) / song.bpm / (view.to - view.from);
  const every = [1, 2, 4, 8, 16].find((n) => n * perBar > 30) ?? 32;
  // A number that the edge would cut off says another one.
  const fits = (bar: number, x: number) => x + NUMBER_AT + DIGIT_PX * String(bar).length <= width;
  const timeAt = (event: { clientX: number; currentTarget: EventTarget }) =>
    view.from + (event.clientX - (event.currentTarget as HTMLElement).getBoundingClientRect().left) / scale;
  const hits = HIT_KINDS.flatMap((kind) =>
    strongHits(detail, kind, { [kind]: Math.max(sensitivities[kind] ?? 0, 1 - CLEAR) }),
  )
    .map((h) => h.song_s)
    .sort((a, b) => a - b);
  const toHit = (at: number) => {
    const near = hits[nearestIndex(hits, at)];
    return near !== undefined && Math.abs(near - at) * scale < SNAP_PX ? near : at;
  };
  const grab = (event: React.PointerEvent) => {
    if (event.button !== 0) return;
    const start = timeAt(event);
    if (event.shiftKey) {
      const beat = song.beats[nearestIndex(song.beats, start)] ?? start;
      follow(
        event,
        ({ dx }) => setBend({ from: beat, to: toHit(beat + dx / scale) }),
        (last) => {
          setBend(null);
          if (last) correct({ action: "pin", song_s: beat, to_s: toHit(beat + last.dx / scale) });
        },
      );
      return;
    }
    follow(
      event,
      ({ dx }) => preview(dx / scale),
      (last) => {
        preview(0);
        if (last) correct({ action: "nudge", seconds: last.dx / scale });
        else clock.seek(start);
      },
    );
  };
  const at = position(song, menuAt);
  const items = [
    { key: "the one", label: `This beat (${at.bar}.${at.beat}) is the one` },
    { key: "pin", label: "Pin this beat to the nearest hit" },
    { key: "hold", label: "Pin this beat where it is" },
    { key: "more beats", label: `Insert a beat in bar ${at.bar}` },
    { key: "fewer beats", label: `Remove a beat from bar ${at.bar}` },
    ...(loop
      ? [2, 3, 4, 5, 6, 7].map((n) => ({ key: `metre ${n}`, label: `Count the loop range in bars of ${n}` }))
      : []),
  ];
  const choose = (key: string, about: number) => {
    const beat = song.beats[nearestIndex(song.beats, about)] ?? about;
    if (key === "pin") correct({ action: "pin", song_s: beat, to_s: hits[nearestIndex(hits, beat)] ?? beat });
    else if (key === "hold") correct({ action: "pin", song_s: beat, to_s: beat });
    else if (key.startsWith("metre") && loop)
      correct({ action: "metre range", song_s: loop[0], to_s: loop[1], metre: Number(key.slice(6)) });
    else correct({ action: key as "the one", song_s: beat });
  };
  useCommandKeys(
    "The grid, at the playhead",
    items.map(({ key, label }) => ({
      keys: "",
      words: key === "the one" ? "This beat is the one" : label.replace(/ in bar .*| from bar .*/, " in this bar"),
      run: () => choose(key, clock.position()),
    })),
  );
  return (
    <Dropdown trigger={["contextMenu"]} menu={{ items, onClick: ({ key }) => choose(key, menuAt) }}>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: its menu is in the list of commands, the shifts are buttons beside */}
      <div
        className={cx("bar-numbers")}
        data-testid="bar-strip"
        onPointerDown={grab}
        onContextMenu={(e) => setMenuAt(timeAt(e))}
        title="Drag to move the grid · Shift-drag a beat to pin it · right click for more"
      >
        {barLines(song, view.from, view.to)
          .filter((l) => (l.bar - 1) % every === 0 && fits(l.bar, xOf(view, l.at, width)))
          .map((l) => (
            <span key={l.bar} style={{ left: xOf(view, l.at, width) + NUMBER_AT }}>
              {l.bar}
            </span>
          ))}
        {song.pins
          .filter((p) => p >= view.from && p <= view.to)
          .map((p) => (
            <button
              type="button"
              key={p}
              className={cx("pin")}
              data-testid="pin"
              style={{ left: xOf(view, p, width) }}
              title="Pinned beat: click to take the pin off"
              aria-label={`Take off the pin at ${p.toFixed(3)} s`}
              onPointerDown={(e) => e.stopPropagation()}
              onClick={() => correct({ action: "take off pin", song_s: p })}
            >
              ▾
            </button>
          ))}
        {bend && <i className={cx("bend")} style={{ left: xOf(view, bend.to, width) }} />}
      </div>
    </Dropdown>
  );
}
