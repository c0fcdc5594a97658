import { memo, useCallback, useEffect, useRef, useState } from "react";
import { createPortal } from "react-dom";
import type { AngleView, ItemView, MediaView, SongView, SpanView, Unit } from "../../api/client";
import { itemBy } from "../../api/lanes";
import { useCommands } from "../../api/project";
import { barBeat, toSong } from "../../parts/format";
import { Canvas } from "../../parts/Canvas";
import { peakOf, usePeaks } from "../../parts/peaks";
import { Still } from "../../parts/Still";
import { clock } from "../../player/clock";
import { spanAt } from "../../player/layers";
import { mediaTime } from "../../player/timemap";
import { colour, hueOf } from "../../theme";
import {
  AROUND,
  cellsIn,
  comingOf,
  type LaneCells,
  levelOf,
  type Row,
  type RowCells,
  TIGHT,
  timeOf,
  xOf,
} from "./geometry";
import { useChoice } from "./choice";
import { nameOf } from "./titles/card";
import { RowGhost } from "./Ghost";
import { besides, pulled, reachOf } from "./pulls";
import { Reached } from "./Reached";
import { RowMarks } from "./RowMarks";
import { RowNotes } from "./RowNotes";
import { inWords } from "./treating/kinds";
import { Sign } from "./treating/Sign";
import { SlipFrames, useSlip } from "./Slipping";
import { type Carrying, useCarry } from "./useCarry";
import { useDrop } from "./useDrop";
import styles from "./SheetRow.module.css";
import { follow } from "../../parts/drag";
import { classes } from "../../parts/classes";

const cx = classes(styles);

type Edge = "all" | "in" | "out";

export interface RowProps {
  row: Row;
  song: SongView;
  cells: RowCells;
  angles: readonly AngleView[];
  media: readonly MediaView[];
  kept: readonly number[][];
  width: number;
  dense: boolean;
  height: number;
  /** Height of the waveform. */
  wave: number;
  begins: string | undefined;
}

/** One phrase: lyric, cutaways, shots with each cut's relation to the grid, and a sliver of waveform with the beats. */
export const SheetRow = memo(function SheetRow(props: RowProps) {
  const { row, song, cells, angles, media, kept, width, dense, height, wave, begins } = props;
  const { rate } = useCommands();
  const head = useRef<HTMLDivElement>(null);
  const { phrase } = row;
  const tight = dense && height < TIGHT;
  const outside = phrase.section === AROUND && (phrase.start_s < 0 ? "lead-in" : "tail");
  useEffect(
    () =>
      clock.subscribe((at) => {
        if (!head.current) return;
        const inside = at >= phrase.start_s && at < phrase.end_s;
        head.current.style.display = inside ? "block" : "none";
        if (inside) head.current.style.transform = `translateX(${xOf(row, at, width)}px)`;
      }),
    [row, phrase, width],
  );
  const seek = (event: React.PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    clock.seek(Math.min(phrase.end_s - 1e-3, timeOf(row, event.clientX - box.left, width)));
  };
  const over = cells.over.filter((lane) => lane.items.length);
  const drop = useDrop(row, width, tight ? 0 : dense ? 14 : 37);
  return (
    <div
      className={cx(
        !dense ? "sheet-row" : tight ? "sheet-row dense tight" : begins ? "sheet-row dense named" : "sheet-row dense",
      )}
      style={{ ["--row" as string]: `${height}px`, ["--wave" as string]: `${wave}px` }}
      data-testid={outside ? `row-${outside}` : `row-${phrase.first_bar}`}
    >
      {outside ? (
        <div className={cx("row-name")}>
          <b>{outside}</b>
          <span>{(phrase.end_s - phrase.start_s).toFixed(1)} s</span>
        </div>
      ) : (
        <div className={cx("row-name")}>
          {begins && <strong title={begins}>{begins}</strong>}
          <b>
            {phrase.section + 1}.{phrase.number}
          </b>
          <span>{phrase.bars > 1 ? "bars" : "bar"}</span>
          <span>
            {phrase.first_bar}
            {phrase.bars > 1 && `–${phrase.first_bar + phrase.bars - 1}`}
          </span>
        </div>
      )}
      <div className={cx("row-lane")} style={{ width }} {...drop}>
        <div className={cx("lyric")}>{phrase.lyric}</div>
        <div className={cx("shots")}>
          {outside && (
            <div
              className={cx("around")}
              style={{ width: xOf(row, phrase.end_s, width) }}
              onPointerDown={(event) => {
                const box = event.currentTarget.getBoundingClientRect();
                clock.seek(Math.min(phrase.end_s - 1e-3, timeOf(row, event.clientX - box.left, width)));
              }}
              data-testid={`around-${outside}`}
            >
              black and silent; lay titles and pictures over it
            </div>
          )}
          {cellsIn(cells.shots, row, rate, width).map((cell) => (
            <ShotCell
              key={cell.item.id}
              shot={cell.item}
              base={cells.base}
              angle={angles.find((a) => a.id === cell.item.source.angle)}
              file={media.find((m) => m.id === cell.item.source.media)}
              left={cell.left}
              width={cell.width}
              begins={cell.begins}
              row={row}
              lane={width}
              song={song}
              seek={seek}
              dense={dense}
            />
          ))}
        </div>
        {over.map((lane, level) =>
          cellsIn(lane.items, row, rate, width).map((c) => (
            <CutawayCell
              key={c.item.id}
              item={c.item}
              lane={lane}
              place={tight ? null : levelOf(level, over.length, dense ? 15 : 19)}
              angle={angles.find((a) => a.id === c.item.source.angle)}
              file={media.find((m) => m.id === c.item.source.media)}
              left={c.left}
              width={c.width}
              row={row}
              across={width}
              song={song}
            />
          )),
        )}
        {!tight &&
          cellsIn(cells.treated, row, rate, width).map((c) => (
            <button
              type="button"
              key={c.item.id}
              className={cx("passage-treated")}
              style={{ left: c.left, width: c.width }}
              title={inWords(c.item)}
              onClick={() =>
                useChoice.setState({
                  treating: {
                    kind: "passage",
                    item: c.item.id,
                    first: c.item.start,
                    end: c.item.end,
                    name: song.sections.findLast((x) => x.start_s * rate <= c.item.start + 12)?.name ?? "a passage",
                  },
                })
              }
              data-testid="treated-passage"
            >
              {c.width > 80 && <span>{inWords(c.item)}</span>}
            </button>
          ))}
        {!tight && !outside && <Beats row={row} song={song} kept={kept} width={width} height={wave} />}
        <RowGhost row={row} rate={rate} width={width} />
        {!tight && <RowMarks row={row} song={song} kept={kept} width={width} dense={dense} />}
        <RowNotes row={row} rate={rate} width={width} />
        <div ref={head} className={cx("row-head")} />
      </div>
    </div>
  );
});

interface ShotProps {
  shot: ItemView;
  base: readonly SpanView[];
  angle: AngleView | undefined;
  file: MediaView | undefined;
  left: number;
  width: number;
  begins: boolean;
  row: Row;
  lane: number;
  song: SongView;
  seek: (event: React.PointerEvent) => void;
  dense: boolean;
}

function ShotCell({ shot, base, angle, file, left, width, begins, row, lane, song, seek, dense }: ShotProps) {
  const { rate, operate, now } = useCommands();
  const on = useChoice((c) => c.shot === shot.id && c.item === null);
  const among = useChoice((c) => c.range !== null && shot.start >= c.range.first && shot.start < c.range.end);
  const [drag, setDrag] = useState<{ by: number; words: string } | null>(null);
  const slip = useSlip(shot, file, (row.seconds * rate) / lane);
  const carry = useCarry(shot, angle?.name ?? file?.name ?? "black");
  const firstFrame = Math.max(shot.start, row.phrase.first_frame);
  // The still is the shot's own picture, also where a cutaway lies over it.
  const own = spanAt(base, firstFrame);
  const hue = angle ? hueOf(angle.hue) : shot.source.kind === "clip" ? colour.soft : colour.rule;
  const hole = own?.kind === "hole";
  const name =
    angle?.name ?? file?.name ?? (shot.source.kind === "empty" ? shot.source.words || "empty slot" : "black");
  const still = dense ? 42 : 66;

  const comes = begins ? comingOf(shot, base) : null;
  const mix = comes && {
    from: Math.max(0, xOf(row, comes.first / rate, lane)),
    to: Math.min(lane, xOf(row, comes.end / rate, lane)),
  };

  const grab = (event: React.PointerEvent) => {
    event.stopPropagation();
    let to = shot.start;
    const unit = now().state.unit as Unit;
    follow(
      event,
      ({ dx, event: e }) => {
        const frame = shot.start + Math.round((dx / lane) * row.seconds * rate);
        // What cuts fall on pulls within a tenth of a second; Shift moves freely by frames.
        to = e.shiftKey ? frame : pulled(frame, song, unit, reachOf(rate));
        setDrag({ by: ((to - shot.start) / rate / row.seconds) * lane, words: besides(to, song, unit) });
      },
      (last) => {
        if (last && to !== shot.start) void operate({ op: "move", item: shot.id, to }).then(() => setDrag(null));
        else setDrag(null);
      },
    );
    useChoice.setState({ item: null, mark: null });
  };
  const pick = (event: React.PointerEvent) => {
    if (event.button !== 0) return;
    const { carrying } = useChoice.getState();
    if (carrying && carrying.item !== shot.id) {
      event.stopPropagation();
      useChoice.setState({ carrying: null });
      const { item, how } = carrying;
      void operate(how === "swap" ? { op: "swap", item, other: shot.id } : { op: "bring", item, to: shot.id });
      return;
    }
    const { shot: chosen, range } = useChoice.getState();
    const from = itemBy(now().edit, chosen);
    if (event.shiftKey && from) {
      event.stopPropagation();
      useChoice.setState({ item: null, range: together(range ?? { first: from.start, end: from.start + 1 }, shot) });
      return;
    }
    if (shot.source.kind !== "empty") carry.begin(event);
    useChoice.setState(({ treating }) => ({ item: null, mark: null, range: null, treating: treating && "here" }));
    const box = (event.currentTarget as HTMLElement).parentElement;
    if (box) seek({ ...event, clientX: event.clientX, currentTarget: box } as unknown as React.PointerEvent);
  };
  return (
    <div
      className={cx(`shot${on ? " on" : ""}${among ? " among" : ""}${hole ? " hole" : ""}`)}
      style={{ left, width, ["--hue" as string]: hue }}
      onPointerDown={pick}
      data-testid="shot"
      data-id={shot.id}
      data-start={shot.start}
      data-end={shot.end}
      data-angle={angle?.number ?? ""}
      title={`${name}${shot.held ? " · held" : ""}`}
    >
      {begins && (
        <Reached
          kind="shot"
          id={shot.id}
          frame={shot.start}
          on={on}
          label={[
            `${name}, ${bars(song, shot, rate)}`,
            shot.start ? `cut: ${shot.label}` : "",
            shot.held ? "held" : "",
            hole ? "a hole" : "",
            shot.source.slip ? "out of sync" : "",
            shot.treated ? inWords(shot) : "",
          ]
            .filter(Boolean)
            .join(", ")}
        />
      )}
      {carry.carrying && <CarriedWords {...carry.carrying} />}
      {drag !== null && (
        <span className={cx("cut-label drag")} style={{ transform: `translateX(${drag.by}px)` }} data-testid="beside">
          {drag.words}
        </span>
      )}
      {drag === null && begins && width > 8 * shot.label.length + 8 && (
        <span className={cx(shot.off_frames && shot.start ? "cut-label off" : "cut-label")}>{shot.label}</span>
      )}
      {own?.media && width > 24 && (
        <span
          className={cx(shot.source.kind === "clip" ? "film" : "")}
          onPointerDown={slip.grab}
          title={shot.source.kind === "clip" ? "Drag along it: another part of the clip is seen" : undefined}
          data-testid="film"
        >
          <Still
            media={own.media}
            at={mediaTime(own.time, firstFrame - own.start, rate)}
            width={Math.min(still, width)}
            inFilm
          />
        </span>
      )}
      {slip.by !== null && file && <SlipFrames item={shot} clip={file} by={slip.by} place={slip.place} />}
      <span className="shot-badge" style={{ display: width > 14 ? undefined : "none" }}>
        {angle ? angle.number : shot.source.kind === "clip" ? "B" : shot.source.kind === "empty" ? "?" : "–"}
      </span>
      {width > still + 34 && (
        <span className={cx("shot-name")}>
          {hole && shot.source.kind !== "empty" ? `hole: ${own.text}` : name}
          {shot.held ? " · held" : ""}
          {shot.source.slip ? " · out of sync" : ""}
        </span>
      )}
      {mix && (
        <svg
          className={cx("mix")}
          style={{ left: mix.from - left, width: mix.to - mix.from }}
          viewBox="0 0 10 10"
          preserveAspectRatio="none"
          aria-hidden="true"
        >
          <path d="M0 10 L10 0" />
        </svg>
      )}
      {shot.treated && width > 16 && (
        <Sign item={shot} room={width - (width > still ? still : 0)} open={() => treat(shot.id)} />
      )}
      {begins && shot.start > 0 && (
        <span
          className={cx("cut-edge")}
          style={drag === null ? undefined : { transform: `translateX(${drag.by}px)`, background: colour.coral }}
          onPointerDown={grab}
          title={`Cut: ${shot.label}. Drag along the beats; Shift for frames.`}
          data-testid="cut"
          data-frame={shot.start}
        />
      )}
    </div>
  );
}

/** What a shot that is dragged would do where it is let go; the shot under it is outlined. */
function CarriedWords({ onto, words, x, y }: Carrying) {
  return createPortal(
    <>
      {onto !== null && (
        <style>{`[data-testid=shot][data-id="${onto}"]{outline:2px dashed ${colour.coral};outline-offset:-2px}`}</style>
      )}
      <span
        className={cx("carried")}
        style={{ left: Math.min(x + 12, window.innerWidth - 330), top: y + 14 }}
        data-testid="carried"
      >
        {words}
      </span>
    </>,
    document.body,
  );
}

/** Open the treatments of a shot, or of a cutaway. */
function treat(shot: number | null, item: number | null = null): void {
  useChoice.setState({ treating: "here", item, ...(shot === null ? {} : { shot }) });
}

/** A range of shots, with another one. */
function together(range: { first: number; end: number }, shot: ItemView): { first: number; end: number } {
  return { first: Math.min(range.first, shot.start), end: Math.max(range.end, shot.end) };
}

/** The bars that an item lies in, in words. */
function bars(song: SongView, item: ItemView, rate: number): string {
  const from = barBeat(song, (item.start + 0.5) / rate).split(".")[0];
  const to = barBeat(song, (item.end - 0.5) / rate).split(".")[0];
  return from === to ? `bar ${from}` : `bars ${from} to ${to}`;
}

interface CutawayProps {
  item: ItemView;
  lane: LaneCells;
  /** Its place in the strip of lanes; null in rows too low for more than one. */
  place: { top: number; height: number } | null;
  angle: AngleView | undefined;
  file: MediaView | undefined;
  left: number;
  width: number;
  row: Row;
  /** Width of the row's lane. */
  across: number;
  song: SongView;
}

/** A cutaway: its body and both its edges are dragged along the beats, with Shift by frames. */
function CutawayCell({ item, lane, place, angle, file, left, width, row, across, song }: CutawayProps) {
  const { rate, operate, now } = useCommands();
  const on = useChoice((c) => c.item === item.id);
  const [drag, setDrag] = useState<{ edge: Edge; by: number } | null>(null);
  const slip = useSlip(item, file, (row.seconds * rate) / across);
  const title = item.source.card !== null;
  const name = title ? nameOf(item) : (file?.name ?? angle?.name ?? "");
  const grab = (edge: Edge) => (event: React.PointerEvent<HTMLElement>) => {
    if (event.button !== 0) return;
    event.stopPropagation();
    useChoice.setState({ item: item.id, mark: null });
    if (event.altKey && !title) return slip.grab(event);
    clock.seek((item.start + 0.001) / rate);
    const held = edge === "out" ? item.end : item.start;
    let frames = 0;
    const unit = now().state.unit as Unit;
    follow(
      event,
      ({ dx, event: e }) => {
        const frame = held + Math.round((dx / across) * row.seconds * rate);
        frames = (e.shiftKey ? frame : pulled(frame, song, unit, reachOf(rate))) - held;
        setDrag({ edge, by: (frames / rate / row.seconds) * across });
      },
      (last) => {
        if (last && frames) void operate({ op: "move item", item: item.id, frames, edge }).then(() => setDrag(null));
        else setDrag(null);
      },
    );
  };
  const by = drag?.by ?? 0;
  const box = {
    ...(place ? { "--top": `${place.top}px`, "--height": `${place.height}px` } : {}),
    left: left + (drag && drag.edge !== "out" ? by : 0),
    width: Math.max(3, width + (drag?.edge === "out" ? by : drag?.edge === "in" ? -by : 0)),
  };
  return (
    <div
      className={cx(`cutaway${title ? " title" : ""}${on ? " on" : ""}${lane.on ? "" : " unseen"}`)}
      style={box}
      onPointerDown={grab("all")}
      title={`${name}, on “${lane.name}”${lane.locked ? ", locked" : lane.on ? "" : ", switched off"}. Drag it or its ends along the beats; Shift for frames${title ? "" : ", Alt for another part of the clip"}.`}
      data-testid={title ? "title" : "cutaway"}
      data-start={item.start}
      data-end={item.end}
      data-lane={lane.name}
    >
      <Reached
        kind="cutaway"
        id={item.id}
        frame={item.start}
        on={on}
        label={`${title ? "title" : "cutaway"} ${name}, ${bars(song, item, rate)}, on ${lane.name}${lane.locked ? ", locked" : ""}${lane.on ? "" : ", switched off"}`}
      />
      {title ? (
        <span className={cx("title-sign")} aria-hidden="true">
          T
        </span>
      ) : file ? (
        <Still media={file.id} at={item.source.in_s} width={Math.min(30, width)} inFilm />
      ) : (
        angle && <span className={cx("over-angle")}>{angle.number}</span>
      )}
      {width > (title ? 34 : 60) && <span>{name}</span>}
      {item.treated && width > 40 && <Sign item={item} room={width - 50} open={() => treat(null, item.id)} />}
      {slip.by !== null && file && <SlipFrames item={item} clip={file} by={slip.by} place={slip.place} />}
      <i className={cx("end")} style={{ left: 0 }} onPointerDown={grab("in")} data-testid="cutaway-in" />
      <i className={cx("end")} style={{ right: 0 }} onPointerDown={grab("out")} data-testid="cutaway-out" />
    </div>
  );
}

interface BeatsProps {
  row: Row;
  song: SongView;
  kept: readonly number[][];
  width: number;
  height: number;
}

function Beats({ row, song, kept, width, height }: BeatsProps) {
  const { operate } = useCommands();
  const peaks = usePeaks(song.media);
  const { phrase } = row;
  const paint = useCallback(
    (paper: CanvasRenderingContext2D, w: number) => {
      if (!peaks) return;
      const step = row.seconds / w;
      paper.fillStyle = "#B3A88C";
      for (let x = 0; x < w; x++) {
        const at = phrase.start_s + x * step;
        if (at >= phrase.end_s) break;
        const [low, high] = peakOf(peaks, toSong(kept, at), toSong(kept, at) + step);
        const tall = Math.max(1, ((high - low) / 2) * height);
        paper.fillRect(x, height - tall, 1, tall);
      }
    },
    [peaks, row, phrase, height, kept],
  );
  const downs = new Set(song.bars);
  const end = Math.min(width, xOf(row, phrase.end_s, width));
  return (
    <div className={cx("beats")} style={{ width: end }}>
      <Canvas paint={paint} height={height} />
      {song.beats.map((beat, i) => {
        if (beat < phrase.start_s - 1e-3 || beat >= phrase.end_s - 1e-3) return null;
        return (
          <button
            type="button"
            key={beat}
            className={cx(downs.has(i) ? "tick down" : "tick")}
            style={{ left: xOf(row, beat, width) }}
            data-testid="tick"
            data-at={beat}
            onPointerDown={(e) => {
              e.stopPropagation();
              void operate({ op: "cut", working_s: beat, unit: "beat", lead: 0 });
            }}
            aria-label={`Cut at beat ${beat.toFixed(2)} s`}
            title="Cut on this beat"
            tabIndex={-1}
          />
        );
      })}
    </div>
  );
}
