import type { SongView } from "../../api/client";
import type { Correction } from "./actions";

export type Reading = SongView["readings"][number];

/** A way to count the song that is one click away, or in force. */
export interface Row {
  key: string;
  name: string;
  bpm: number;
  /** True while the song is counted so; a click takes that back. */
  on: boolean;
  /** The correction that a click asks for. */
  correction: Correction;
  reading: Reading | undefined;
}

const FACTORS: readonly [number, string][] = [
  [1 / 4, "a quarter as fast"],
  [1 / 3, "a third as fast"],
  [1 / 2, "half as fast"],
  [2 / 3, "two thirds as fast"],
  [3 / 2, "one and a half times as fast"],
  [2, "twice as fast"],
  [3, "three times as fast"],
  [4, "four times as fast"],
];

type Counted = Pick<
  SongView,
  "beats" | "bars" | "bpm" | "readings" | "factor" | "half_shift" | "straight" | "from_file" | "as_found"
>;

/** As found, and then the other ways to count, what is in force and the likeliest first. */
export function rowsOf(song: Counted, playhead: number): Row[] {
  const [found, ...rest] = song.readings;
  const base = found?.tempo_bpm ?? song.bpm;
  const at = (factor: number) => rest.find((r) => !r.shift_beats && Math.abs(r.tempo_bpm / (base * factor) - 1) < 0.02);
  const rows = [
    ...octaves(song, at),
    {
      key: "half",
      name: "shifted by half a beat",
      bpm: song.bpm,
      on: song.half_shift,
      correction: { action: "half beat" as const },
      reading: rest.find((r) => r.shift_beats === 0.5),
    },
    ...laterOne(song, rest),
  ];
  const other = rest.find((r) => !r.shift_beats && ![0.5, 1, 2].some((f) => at(f) === r));
  if (other)
    rows.push({
      key: `other ${other.tempo_bpm}`,
      name: "another reading",
      bpm: other.tempo_bpm,
      on: false,
      correction: { action: "tempo", bpm: other.tempo_bpm, song_s: playhead },
      reading: other,
    });
  const weight = (r: Row) => (r.on ? 2 : (r.reading?.score ?? 0));
  rows.sort((a, b) => weight(b) - weight(a));
  const asFound = {
    key: "found",
    name: "as found",
    bpm: base,
    on: song.as_found,
    correction: { action: "as found" as const },
  };
  return [{ ...asFound, reading: undefined }, ...rows];
}

/** Half and twice as fast; where one is in force, that one, and a step further. */
function octaves(song: Counted, at: (factor: number) => Reading | undefined): Row[] {
  const { bpm, factor } = song;
  const half = { key: "halve", bpm: bpm / 2, on: false, correction: { action: "halve" as const } };
  const twice = { key: "double", bpm: bpm * 2, on: false, correction: { action: "double" as const } };
  if (factor === 1)
    return [
      { ...half, name: "half as fast", reading: at(0.5) },
      { ...twice, name: "twice as fast", reading: at(2) },
    ];
  const name = FACTORS.find(([f]) => Math.abs(f / factor - 1) < 0.01)?.[1] ?? `${factor.toFixed(2)} times as fast`;
  // A tapped third is no step of two: it is taken back whole.
  const back: "double" | "halve" | "as found" = Number.isInteger(Math.log2(factor))
    ? factor < 1
      ? "double"
      : "halve"
    : "as found";
  const now: Row = { key: "counted", name, bpm, on: true, correction: { action: back }, reading: at(factor) };
  if (factor < 1) {
    const further = factor > 0.26 ? [{ ...half, name: "half of that", reading: undefined }] : [];
    return [now, ...further];
  }
  const further = factor < 3.9 ? [{ ...twice, name: "twice that", reading: undefined }] : [];
  return [now, ...further];
}

/** The likeliest other beat to be the one, counted from a bar inside the song. */
function laterOne(song: Counted, rest: readonly Reading[]): Row[] {
  const late = rest.find((r) => r.shift_beats >= 1);
  const beats = late ? late.shift_beats * song.factor : 0;
  if (!late || song.straight || song.from_file || beats !== Math.round(beats)) return [];
  const bar = song.bars.find((b) => (song.beats[b] ?? 0) > 0.1) ?? 0;
  const one = song.beats[bar + beats];
  if (one === undefined) return [];
  const name = `the one ${beats === 1 ? "a beat later" : `${beats} beats later`}`;
  const correction = { action: "the one" as const, song_s: one };
  return [{ key: "other one", name, bpm: song.bpm, on: false, correction, reading: late }];
}
