import { editOf } from "../../api/testEdit";
import { wholeShots } from "./passage";
import { describe, expect, it } from "vitest";
import type { ItemView, SectionView, SongView } from "../../api/client";
import { aroundCut, awayFor, lengthOf, modelsFor, nextBeat, passageOf, summary } from "./passage";

const section = (id: number, start_s: number, end_s: number, name: string, group: number, frames: [number, number]) =>
  ({ id, start_s, end_s, name, group, first_frame: frames[0], end_frame: frames[1] }) as SectionView;
const song = {
  bpm: 120,
  metre: 4,
  seconds: 40,
  beats: Array.from({ length: 81 }, (_, i) => i * 0.5),
  bars: Array.from({ length: 21 }, (_, i) => 4 * i),
  phrases: [],
  sections: [
    section(1, 0, 8, "Verse 1", 1, [0, 190]),
    section(2, 8, 24, "Chorus 1", 2, [190, 577]),
    section(3, 24, 40, "Chorus 2", 2, [577, 965]),
  ],
} as unknown as SongView;
const shot = (start: number, end: number, angle: number | null, kind = "angle") =>
  ({ start, end, source: { kind, angle } }) as unknown as ItemView;

describe("the passage that is worked on", () => {
  it("is the loop where there is one, else the section at the playhead", () => {
    const on = { rate: 24, length: 965 };
    expect(passageOf(song, [2, 4], 30, on)).toEqual({ first: 48, end: 96, name: "the loop" });
    expect(passageOf(song, null, 9, on)).toEqual({ first: 190, end: 577, name: "Chorus 1" });
    expect(passageOf(song, null, 39.9, on)).toEqual({ first: 577, end: 965, name: "Chorus 2" });
    expect(passageOf({ ...song, sections: [], phrases: [] }, null, 3, on).name).toBe("the song");
  });

  it("is summed up by its shots, their length and angles, and what is empty", () => {
    const edit = editOf([shot(0, 96, 1), shot(96, 192, 2), shot(192, 240, 1), shot(240, 960, null, "empty")]);
    expect(summary(song, edit, { first: 0, end: 240, name: "" }, 24)).toBe("3 shots, 6.7 beats each, 2 angles");
    expect(summary(song, edit, { first: 192, end: 300, name: "" }, 24)).toContain("1 empty");
    expect(summary(song, edit, { first: 300, end: 400, name: "" }, 24)).toBe("no cut");
  });

  it("can be cut as any other, those of the same music first", () => {
    expect(modelsFor(song, song.sections[2] as SectionView).map((s) => s.name)).toEqual(["Chorus 1", "Verse 1"]);
  });
});

describe("what is said of a shot", () => {
  it("is its length in beats, whole bars, frames and seconds", () => {
    expect(lengthOf(song, { start: 0, end: 96 }, 24)).toBe("8 beats · 2 bars · 96 f · 4.00 s");
    expect(lengthOf(song, { start: 0, end: 12 }, 24)).toBe("1 beat · 12 f · 0.50 s");
    expect(lengthOf(song, { start: 0, end: 50 }, 24)).toBe("4.2 beats · 50 f · 2.08 s");
  });

  it("is how long its angle was away", () => {
    const shots = [shot(0, 48, 1), shot(48, 144, 2), shot(144, 200, 1), shot(200, 260, null, "clip")];
    expect(awayFor(song, shots, 2, 24)).toEqual({ beats: 8, bars: 2 });
    expect(awayFor(song, shots, 1, 24)).toBeNull();
    expect(awayFor(song, shots, 3, 24)).toBeNull();
  });

  it("is played over a bar before and after its cut, inside the song", () => {
    expect(aroundCut(song, 240, 24)).toEqual([8, 12]);
    expect(aroundCut(song, 12, 24)).toEqual([0, 2.5]);
  });

  it("is where the next switch falls", () => {
    expect(nextBeat(song, 2.2)).toEqual({ beat: 2.5, away: expect.closeTo(0.6) });
    expect(nextBeat(song, 2.5)?.beat).toBe(3);
    expect(nextBeat(song, 60)).toBeNull();
  });
});

describe("shots chosen together", () => {
  const shots = [0, 10, 30, 50].map((start, i) => ({ start, end: [10, 30, 50, 90][i] ?? 0 }));
  it("are worked on whole, whichever was chosen first", () => {
    expect(wholeShots({ first: 10, end: 31 }, shots)).toEqual({ first: 10, end: 50 });
    expect(wholeShots({ first: 0, end: 1 }, shots)).toEqual({ first: 0, end: 10 });
    expect(wholeShots({ first: 30, end: 90 }, shots)).toEqual({ first: 30, end: 90 });
  });
});
