import { describe, expect, it } from "vitest";
import type { SongView } from "../../../api/client";
import type { Difference } from "../../../api/versions";
import { inside, placeOf, sectionAt } from "./differing";

const song = {
  first_bar: 1,
  beats: Array.from({ length: 41 }, (_, i) => i * 0.5),
  bars: Array.from({ length: 10 }, (_, i) => 4 * i),
  sections: [
    { name: "Intro", first_frame: 0, end_frame: 96 },
    { name: "Verse", first_frame: 96, end_frame: 480 },
  ],
} as unknown as SongView;
const at = (first: number, end: number) =>
  ({ first, end, what: "source", lane: "base", here: 1, there: 2 }) as Difference;

describe("what differs, in words", () => {
  it("is told in bars and beats, of its first and its last frame", () => {
    expect(placeOf(song, at(0, 48), 24)).toBe("1.1 to 1.4");
    expect(placeOf(song, at(48, 60), 24)).toBe("2.1 to 2.1");
  });

  it("lies in a section, or before the song", () => {
    const film = { first: -48, end: 480 };
    expect(sectionAt(song, 100, film)).toEqual({ name: "Verse", first: 96, end: 480 });
    expect(sectionAt(song, -10, film)).toEqual({ name: "before the song", first: -48, end: 0 });
  });

  it("is taken over with whatever of it lies in the passage", () => {
    const differ = [at(0, 48), at(90, 100), at(200, 240)];
    expect(inside(differ, { first: 96, end: 480 })).toEqual([differ[1], differ[2]]);
  });
});
