import { describe, expect, it } from "vitest";
import { barBeat } from "./format";
import { endOf, type Music, placeOf } from "./places";

/** Four bars of four beats, half a second each, after an upbeat; the third bar slower. */
const beats = [-0.5, 0, 0.5, 1, 1.5, 2, 2.5, 3, 3.5, 4, 5, 6, 7, 8, 8.5, 9, 9.5, 10];
const song = {
  beats,
  bars: [1, 5, 9, 13, 17],
  first_bar: 1,
  sections: [
    { name: "Verse 1", start_s: 0 },
    { name: "Chorus 1", start_s: 4 },
  ],
  marks: [{ name: "Turn", at_s: 2.25 }],
} as unknown as Music;

describe("places that are typed", () => {
  it.each([
    ["1", 0],
    ["2.3", 3],
    ["3.2", 5],
    ["0:41.5", 41.5],
    ["1:02", 62],
    ["00:00:02:12", 2.5],
    ["7 s", 7],
    ["36 f", 1.5],
    ["turn", 2.25],
    ["cho", 4],
    [" Chorus 1 ", 4],
  ])("%s", (text, at) => expect(placeOf(text, song, 24)).toBeCloseTo(at, 9));

  it.each(["", "99", "2.5", "2.0", "nowhere", "a:b", "-3", "1:-2"])("%s is none", (text) =>
    expect(placeOf(text, song, 24)).toBeUndefined(),
  );

  it("bar and beat are those that are shown", () => {
    for (const at of beats.slice(1, 16))
      expect(placeOf(barBeat(song as Parameters<typeof barBeat>[0], at), song, 24)).toBe(at);
  });
});

describe("lengths that are typed", () => {
  it.each([
    ["36", 36],
    ["36 f", 36],
    ["1.5 s", 36],
    ["2 beats", 24],
    ["1 bar", 48],
    ["1beat", 12],
  ])("%s", (text, frames) => expect(endOf(text, song, 0, 24)).toBe(frames));

  it("beats are as long as they are there", () => expect(endOf("2 beats", song, 96, 24)).toBe(96 + 48));

  it.each(["", "0", "-2 beats", "two bars", "bars", "x f"])("%s is none", (text) =>
    expect(endOf(text, song, 0, 24)).toBeUndefined(),
  );
});
