import { describe, expect, it } from "vitest";
import cases from "../../../tests/cases/beats.json";
import { barsBetween, barsOn, beatsBetween, placeAmong, timeAt } from "./beats";

describe("the place of a time among beats", () => {
  it.each(cases)("is the core's: $name", ({ beats, at }) => {
    for (const [time = 0, place = 0] of at) {
      expect(placeAmong(beats, time)).toBeCloseTo(place, 6);
      expect(timeAt(beats, place)).toBeCloseTo(time, 6);
    }
  });
});

describe("a length where the tempo moves", () => {
  const rising = cases[1]?.beats ?? [];
  const song = { beats: rising, bars: [0, 3, 7, 11] };

  it("is counted in the beats that are there", () => {
    for (const first of [0, 8, 20])
      expect(beatsBetween(song, rising[first] as number, rising[first + 4] as number)).toBeCloseTo(4, 9);
    expect(beatsBetween({ beats: [] }, 0, 10)).toBe(0);
  });

  it("is counted in bars as long as they are, an odd one too", () => {
    expect(barsBetween(song, rising[0] as number, rising[7] as number)).toBeCloseTo(2, 9);
    expect(barsOn(song, rising[3] as number, 1)).toBeCloseTo(rising[7] as number, 9);
    expect(barsOn({ beats: [], bars: [] }, 3, 1)).toBe(3);
  });
});
