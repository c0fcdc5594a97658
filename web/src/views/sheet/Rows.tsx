import { shotsOf } from "../../api/lanes";
import { useVirtualizer } from "@tanstack/react-virtual";
import { memo, type RefObject, useCallback, useEffect, useEffectEvent, useMemo, useRef, useState } from "react";
import type { EditView, SectionView, SongView } from "../../api/client";
import { useProject } from "../../api/project";
import { beatsBetween } from "../../parts/beats";
import { useWidth } from "../../parts/Canvas";
import { clock, useClock } from "../../player/clock";
import { cellsOf, fittingRow, type Per, repeatsOf, type Row, rowsAround, rowsOf, TIGHT, WIDE_NAME } from "./geometry";
import { useChoice, WAVE_HEIGHT } from "./choice";
import { type RowProps, SheetRow } from "./SheetRow";
import styles from "./Rows.module.css";
import { useSame } from "../../parts/same";
import { classes } from "../../parts/classes";

const cx = classes(styles);

/** `begins` is the name of the section that a row begins where headings are left out. */
type Line =
  | { kind: "section"; section: SectionView; index: number }
  | { kind: "repeats"; name: string }
  | { kind: "row"; row: Row; begins: string | undefined };

/** A row of which so much is seen is in sight. */
const IN_SIGHT = 24;

interface RowsProps {
  song: SongView;
  edit: EditView;
  dense: boolean;
  /** Repeats lie under each other. */
  compare?: boolean;
  per?: Per;
  /** A working time: only the phrase there and the next are laid out. */
  around?: number;
}

/** The song laid out like a lyric sheet: section headings and one row a phrase; only what is visible is drawn. */
export const Rows = memo(function Rows({ song, edit, dense, around, compare = false, per = "phrase" }: RowsProps) {
  const [pane, width] = useWidth<HTMLDivElement>();
  const { rate, state } = useProject();
  const height = useHeight(pane);
  const { lead, tail, length } = edit;
  const here =
    around === undefined
      ? -1
      : Math.max(
          0,
          song.phrases.findIndex((p) => around < p.end_s),
        );
  const lines = useMemo(() => {
    const all = compare ? repeatLines(song, per) : linesOf(song, !dense, per);
    if (here < 0) {
      const scale = all.find((l) => l.kind === "row")?.row.seconds ?? 1;
      const { before, after } = rowsAround({ lead, tail, length }, rate, scale);
      const line = (row: Row): Line => ({ kind: "row", row, begins: undefined });
      return [...before.map(line), ...all, ...after.map(line)];
    }
    const rows = all.filter((l) => l.kind === "row");
    return rows.slice(Math.min(here, Math.max(0, rows.length - 2)), here + 2);
  }, [song, dense, here, compare, per, lead, tail, length, rate]);
  // The whole song fits the pane: its rows share the height, down to what a number can still be read in.
  const wave = useChoice((c) => WAVE_HEIGHT[c.wave]);
  const rowHeight = dense ? fittingRow(height, lines.length) : compare ? 62 : 88 + wave;
  const size = useCallback(
    (i: number) => (lines[i]?.kind === "row" ? rowHeight : compare ? 26 : 32),
    [lines, rowHeight, compare],
  );
  const list = useVirtualizer({
    count: lines.length,
    getScrollElement: () => pane.current,
    estimateSize: size,
    overscan: 3,
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: the height of rows is what is measured
  useEffect(() => list.measure(), [list, rowHeight]);

  // The sheet follows the playhead: from row to row while it plays, else only to a row that is not in sight at all.
  const current = useRef(-1);
  const follow = useEffectEvent((at: number) => {
    const index = lines.findIndex((l) => l.kind === "row" && at >= l.row.phrase.start_s && at < l.row.phrase.end_s);
    if (index < 0 || index === current.current) return;
    current.current = index;
    if (useClock.getState().playing) {
      list.scrollToIndex(Math.min(lines.length - 1, index + 1), { align: "auto" });
      return;
    }
    const place = list.measurementsCache[index];
    const box = pane.current;
    if (!place || !box) return;
    if (place.end < box.scrollTop + IN_SIGHT || place.start > box.scrollTop + box.clientHeight - IN_SIGHT)
      list.scrollToIndex(index, { align: "center" });
  });
  useEffect(() => clock.subscribe((at) => follow(at)), []);
  // Opened, or laid out another way: where the playhead is.
  const laidOut = height > 0 && `${dense} ${compare} ${per}`;
  useEffect(() => {
    current.current = -1;
    if (laidOut) follow(clock.position());
  }, [laidOut]);

  return (
    <div ref={pane} className={cx("rows")} data-testid="rows">
      <div style={{ height: list.getTotalSize(), position: "relative" }}>
        {list.getVirtualItems().map((item) => {
          const line = lines[item.index];
          if (!line) return null;
          return (
            <div
              key={item.key}
              className={cx("row-place")}
              style={{ transform: `translateY(${item.start}px)`, height: item.size }}
            >
              {line.kind === "section" ? (
                <Heading section={line.section} song={song} edit={edit} rate={rate} />
              ) : line.kind === "repeats" ? (
                <h2 className={cx("heading repeats")}>{line.name}</h2>
              ) : (
                <RowOf
                  row={line.row}
                  song={song}
                  edit={edit}
                  angles={state.angles}
                  media={state.media}
                  kept={state.kept}
                  width={Math.max(100, width - (rowHeight < TIGHT || compare ? WIDE_NAME : 64))}
                  dense={dense || compare}
                  height={rowHeight}
                  wave={dense || compare ? 10 : wave}
                  begins={compare || rowHeight < TIGHT ? line.begins : undefined}
                />
              )}
            </div>
          );
        })}
      </div>
    </div>
  );
});

/** A row with what of the edit lies in it: what an operation did not change there is not drawn again. */
function RowOf({ edit, ...row }: { edit: EditView } & Omit<RowProps, "cells">) {
  return <SheetRow {...row} cells={useSame(cellsOf(edit, row.row))} />;
}

/** The height of an element, kept up to date. */
function useHeight(element: RefObject<HTMLDivElement | null>): number {
  const [height, setHeight] = useState(0);
  useEffect(() => {
    if (!element.current) return;
    const seen = new ResizeObserver(([entry]) => setHeight(entry?.contentRect.height ?? 0));
    seen.observe(element.current);
    return () => seen.disconnect();
  }, [element]);
  return height;
}

/** Repeats under each other; a song without any is laid out as it runs. */
function repeatLines(song: SongView, per: Per): Line[] {
  const groups = repeatsOf(song, per);
  if (!groups.length) return linesOf(song, true, per);
  return groups.flatMap((g) => [
    { kind: "repeats" as const, name: g.name },
    ...g.rows.map((row) => ({ kind: "row" as const, row, begins: song.sections[row.phrase.section]?.name })),
  ]);
}

function linesOf(song: SongView, headings: boolean, per: Per): Line[] {
  const lines: Line[] = [];
  let section = -1;
  for (const row of rowsOf(song, per)) {
    const first = row.phrase.section !== section;
    section = row.phrase.section;
    const found = song.sections[section];
    if (first && found && headings) lines.push({ kind: "section", section: found, index: section });
    lines.push({ kind: "row", row, begins: first && !headings ? found?.name : undefined });
  }
  return lines;
}

function Heading({
  section,
  song,
  edit,
  rate,
}: {
  section: SectionView;
  song: SongView;
  edit: EditView;
  rate: number;
}) {
  const [a, b] = [section.start_s * rate, section.end_s * rate];
  const shots = shotsOf(edit).filter((s) => s.end > a + 1 && s.start < b - 1);
  const beats = beatsBetween(song, section.start_s, section.end_s);
  const uncut = shots.length < 2 && shots.every((s) => s.source.kind === "empty");
  const angles = new Set(shots.filter((s) => s.source.kind === "angle").map((s) => s.source.angle)).size;
  const same = song.sections.filter((o) => o.group === section.group && o.id !== section.id).map((o) => o.name);
  const holes = edit.findings
    .filter((f) => f.kind === "hole" && f.end > a && f.start < b)
    .reduce((sum, s) => sum + Math.min(b, s.end) - Math.max(a, s.start), 0);
  return (
    <h2 className={cx("heading")}>
      {section.name}
      <span className="soft">
        {section.bars} bars ·{" "}
        {uncut
          ? "not cut yet"
          : `a cut every ${(beats / Math.max(1, shots.length)).toFixed(1)} beats · ${angles} ${angles === 1 ? "angle" : "angles"}`}
        {same.length ? ` · same music as ${same.join(", ")}` : ""}
      </span>
      {holes > 1 && <span className="bad">no picture for {(holes / rate).toFixed(1)} s</span>}
    </h2>
  );
}
