import { describe, expect, it } from "vitest";
import { clicksOf, keptClicks, type Reading } from "./readings";

const song = { beats: [0.5, 1, 1.5, 2, 2.5, 3, 3.5, 4, 4.5], bars: [1, 5], bpm: 120, seconds: 5 };
const reading = (more: Partial<Reading>): Reading => ({
  tempo_bpm: 120,
  shift_beats: 0,
  score: 1,
  reason: "",
  ...more,
});
const at = (key: string, r?: Reading) => clicksOf(song, key, r).map((c) => c.at);
const downs = (key: string, r?: Reading) => clicksOf(song, key, r).flatMap((c) => (c.down ? [c.at] : []));

describe("the clicks of another way to count", () => {
  it("fall on every other beat, from the one on", () => {
    expect(at("halve")).toEqual([1, 2, 3, 4]);
    expect(downs("halve")).toEqual([1, 3]);
  });

  it("fall half-way too", () => {
    expect(at("double").slice(0, 4)).toEqual([0.5, 0.75, 1, 1.25]);
    expect(at("double")).toHaveLength(17);
    expect(downs("double")).toEqual([1, 3]);
  });

  it("fall half-way alone", () => {
    expect(at("half")).toEqual([0.75, 1.25, 1.75, 2.25, 2.75, 3.25, 3.75, 4.25]);
    expect(downs("half")).toEqual([1.25, 3.25]);
  });

  it("stay, with another beat as the one", () => {
    expect(at("other one", reading({ shift_beats: 2 }))).toEqual(song.beats);
    expect(downs("other one", reading({ shift_beats: 2 }))).toEqual([2, 4]);
  });

  it("are straight at another tempo, to the song's end", () => {
    const clicks = at("other 90", reading({ tempo_bpm: 90 }));
    expect(clicks[1]).toBeCloseTo((clicks[0] ?? 0) + 60 / 90, 9);
    expect(clicks.at(-1)).toBeLessThan(5);
  });

  it("are those of what is kept, in its time", () => {
    const clicks = [0, 1, 2, 3, 4].map((time) => ({ at: time, down: time === 3 }));
    const kept = [
      [0, 1.5],
      [3, 5],
    ];
    expect(keptClicks(clicks, kept)).toEqual([
      { at: 0, down: false },
      { at: 1, down: false },
      { at: 1.5, down: true },
      { at: 2.5, down: false },
    ]);
    expect(keptClicks(clicks, null)).toEqual(clicks);
  });
});
