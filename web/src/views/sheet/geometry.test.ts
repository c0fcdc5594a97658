import { editOf } from "../../api/testEdit";
import { describe, expect, it } from "vitest";
import type { EditView, ItemView, PhraseView, SongView, SpanView } from "../../api/client";
import { barBeat, barLines, nearestBeat, signed, timecode } from "../../parts/format";
import { peakOf, pyramid } from "../../parts/peaks";
import {
  cellsIn,
  cellsOf,
  columnsFor,
  comingOf,
  fittingRow,
  levelOf,
  rowsAround,
  rowsOf,
  timeOf,
  type Row,
  xOf,
} from "./geometry";

const phrase = (start_s: number, end_s: number): PhraseView => ({
  section: 0,
  number: 1,
  start_s,
  end_s,
  first_bar: 1,
  bars: 4,
  first_frame: Math.round(start_s * 24),
  end_frame: Math.round(end_s * 24),
  lyric: "",
});

const song = {
  beats: Array.from({ length: 40 }, (_, i) => i * 0.5 - 1),
  bars: [2, 6, 10, 14, 18, 22],
  first_bar: 1,
  phrases: [phrase(0, 8), phrase(8, 16), phrase(16, 26)],
} as unknown as SongView;

describe("rows of the sheet", () => {
  const rows = rowsOf(song);
  it("share one scale, so that bar lies under bar", () => {
    expect(rows.map((r) => r.seconds)).toEqual([10, 10, 10]);
    expect(xOf(rows[0] as never, 2, 500)).toBe(xOf(rows[1] as never, 10, 500));
    expect(timeOf(rows[1] as never, xOf(rows[1] as never, 12.3, 500), 500)).toBeCloseTo(12.3);
  });

  it("hold the part of each shot that lies in them, once", () => {
    const shots = [0, 100, 150, 191, 250, 500].map((start, i, all) => ({ start, end: all[i + 1] ?? 624 }));
    const cells = rows.map((row) => cellsIn(shots, row, 24, 500));
    expect(cells.map((row) => row.map((c) => [c.item.start, c.begins]))).toEqual([
      [
        [0, true],
        [100, true],
        [150, true],
        [191, true],
      ],
      [
        [191, false],
        [250, true],
      ],
      [
        [250, false],
        [500, true],
      ],
    ]);
    for (const row of cells) {
      row.slice(1).forEach((c, i) => expect(c.left).toBeCloseTo((row[i]?.left ?? 0) + (row[i]?.width ?? 0), 6));
    }
  });
});

describe("rows of bars", () => {
  // A grid that slows down: bars of four beats, the last phrase of three bars.
  const beats = Array.from({ length: 45 }, (_, i) => i * 0.5 + i * i * 0.002);
  const bars = Array.from({ length: 11 }, (_, i) => 4 * i);
  const frames = beats.map((b) => Math.round(b * 24));
  const of = (first: number, count: number, lyric: string): PhraseView => ({
    ...phrase(beats[4 * first] as number, beats[4 * (first + count)] as number),
    first_bar: 7 + first,
    bars: count,
    lyric,
  });
  const laid = { beats, bars, beat_frames: frames, first_bar: 7, phrases: [of(0, 4, "one"), of(4, 3, "two")] };

  it("hold a bar or two each, without gaps, the words over the first", () => {
    const rows = rowsOf(laid, "two bars").map((r) => r.phrase);
    expect(rows.map((p) => [p.first_bar, p.bars, p.lyric])).toEqual([
      [7, 2, "one"],
      [9, 2, ""],
      [11, 2, "two"],
      [13, 1, ""],
    ]);
    for (const per of ["bar", "two bars"] as const) {
      const parts = rowsOf(laid, per).map((r) => r.phrase);
      expect(parts.reduce((all, p) => all + p.bars, 0)).toBe(7);
      parts.forEach((p, k) => {
        expect(p.start_s).toBe(beats[4 * (p.first_bar - 7)]);
        if (parts[k + 1]) expect([p.end_s, p.end_frame]).toEqual([parts[k + 1]?.start_s, parts[k + 1]?.first_frame]);
      });
      expect(parts.at(-1)?.end_frame).toBe(laid.phrases[1]?.end_frame);
    }
  });
});

describe("positions in words", () => {
  it("count bars and beats from the one", () => {
    expect([0, 0.49, 0.5, 1.5, 2, -0.5].map((t) => barBeat(song, t))).toEqual([
      "1.1",
      "1.1",
      "1.2",
      "1.4",
      "2.1",
      "1.0",
    ]);
    expect(barLines(song, 0, 5).map((l) => [l.bar, l.at])).toEqual([
      [1, 0],
      [2, 2],
      [3, 4],
    ]);
    expect(nearestBeat(song, 3.2)).toBe(3);
    expect(nearestBeat(song, 3.2, true)).toBe(3.25);
  });

  it("write timecode and signs without jitter", () => {
    expect(timecode(86399, 24)).toBe("00:59:59:23");
    expect(timecode(30, 30000 / 1001)).toBe("00:00:01:00");
    expect([signed(-0.001, 2), signed(1.25, 1), signed(-3, 0)]).toEqual(["0.00", "+1.3", "−3"]);
  });
});

describe("peaks", () => {
  it("keep the extremes at every zoom", () => {
    const base = new Int16Array(3 * 4000);
    for (let i = 0; i < 4000; i++) base.set([-100, 100, 50], 3 * i);
    base.set([-30000, 20000, 9000], 3 * 1234);
    const peaks = pyramid(base, 400);
    expect(peaks.levels.length).toBeGreaterThan(1);
    for (const [from, to] of [
      [3.08, 3.09],
      [3, 4],
      [0, 10],
    ] as const) {
      const [low, high] = peakOf(peaks, from, to);
      expect(low).toBeCloseTo(-30000 / 32767, 5);
      expect(high).toBeCloseTo(20000 / 32767, 5);
    }
    expect(peakOf(peaks, 0, 1)[1]).toBeCloseTo(100 / 32767, 5);
  });
});

describe("the whole song in one pane", () => {
  it("gives every phrase a row of the same height, and lets none grow beyond what it needs", () => {
    expect(fittingRow(655, 13)).toBe(50);
    expect(fittingRow(655, 3)).toBe(62);
    expect(fittingRow(0, 0)).toBeGreaterThan(0);
  });

  it("fits a four-minute song at 174 beats a minute, phrase by phrase of four bars, at 1280x800", () => {
    const phrases = Math.ceil((240 * 174) / 60 / 16);
    expect(fittingRow(655, phrases) * phrases).toBeLessThanOrEqual(655);
  });
});

describe("what of an edit lies in a row", () => {
  const at = (start: number, end: number) => ({ start, end });
  const edit = {
    ...editOf([at(0, 40), at(40, 90), at(90, 200)], [at(10, 20), at(60, 70)], [at(0, 30), at(20, 60)]),
    programme: { layers: [[at(0, 40), at(40, 60), at(60, 90), at(90, 200)]] },
  } as unknown as EditView;
  it("is every item that shares a frame with it", () => {
    const row = { seconds: 2, phrase: { first_frame: 50, end_frame: 90 } } as unknown as Row;
    const cells = cellsOf(edit, row);
    expect(cells.shots.map((s) => s.start)).toEqual([40]);
    expect(cells.over.map((lane) => [lane.name, lane.items.map((s) => s.start)])).toEqual([["Cutaways", [60]]]);
    expect(cells.base.map((s) => s.start)).toEqual([40, 60]);
    expect(cells.treated.map((t) => [t.id, t.start, t.end])).toEqual([[20, 20, 60]]);
  });

  it("lies on one strip for all lanes over the base, the uppermost at the top", () => {
    expect(levelOf(0, 1, 19)).toEqual({ top: 0, height: 19 });
    const two = [levelOf(0, 2, 19), levelOf(1, 2, 19)];
    expect(two).toEqual([
      { top: 14, height: 14 },
      { top: 0, height: 14 },
    ]);
    expect(levelOf(3, 4, 15)).toEqual({ top: 0, height: 8 });
  });

  it("comes in over the shot before it for as long as its dissolve says", () => {
    const opacity = [
      { frame: 0, value: 0, shape: "straight" },
      { frame: 12, value: 1, shape: "hold" },
    ];
    const shot = (kinds: string[]) =>
      ({
        ...at(40, 90),
        treated: { treatments: kinds.map((kind) => ({ kind, off: false })) },
      }) as unknown as ItemView;
    const base = [
      at(0, 46),
      {
        ...at(34, 90),
        chain: [
          { step: "place", curves: { scale: [] } },
          { step: "opacity", curves: { amount: opacity } },
        ],
      },
    ] as unknown as SpanView[];
    expect(comingOf(shot(["dissolve"]), base)).toEqual({ first: 34, end: 46 });
    expect(comingOf(shot(["pulse"]), base)).toBeNull();
    expect(comingOf(shot(["dissolve"]), base.slice(0, 1))).toBeNull();
  });
});

describe("the columns of the live layout", () => {
  it("are those in which the pictures are largest, for each shape", () => {
    expect([1, 2, 4, 5, 6, 9].map((count) => columnsFor(count, 16 / 9))).toEqual([1, 2, 2, 3, 3, 3]);
    expect([1, 3, 6, 9].map((count) => columnsFor(count, 9 / 16))).toEqual([1, 3, 6, 5]);
    expect([4, 9].map((count) => columnsFor(count, 1))).toEqual([2, 5]);
  });
});

describe("film around the song", () => {
  it("has a row before the others and one after, to their scale, or drawn closer where it is longer", () => {
    const { before, after } = rowsAround({ lead: 48, tail: 240, length: 960 }, 24, 8);
    expect(before.map((r) => [r.phrase.first_frame, r.phrase.end_frame, r.seconds])).toEqual([[-48, 0, 8]]);
    expect(after.map((r) => [r.phrase.start_s, r.phrase.end_s, r.seconds])).toEqual([[40, 50, 10]]);
    expect(rowsAround({ lead: 0, tail: 0, length: 960 }, 24, 8)).toEqual({ before: [], after: [] });
  });
});
