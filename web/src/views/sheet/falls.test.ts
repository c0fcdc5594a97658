import { describe, expect, test } from "vitest";
import type { EditView, ProjectState } from "../../api/client";
import { fallsNow, laidNow, shotAt } from "./falls";

const song = { beats: [0, 0.5, 1, 1.5, 2], bars: [0, 4] };
const state = { unit: "beat", lead: 2, song } as unknown as ProjectState;

describe("where a cut falls", () => {
  test("while playing: on the chosen grid with the chosen lead", () => {
    expect(fallsNow(state, true, 1.23)).toEqual({ at_s: 1.23, unit: "beat", lead: 2 });
  });
  test("paused: at the very frame under the playhead, without lead", () => {
    const falls = fallsNow(state, false, 25 / 24);
    expect(falls).toMatchObject({ unit: "free", lead: 0 });
    expect(Math.floor(falls.at_s * 24)).toBe(25);
  });
});

describe("where a clip is laid", () => {
  test("while playing: where the playhead is, for the server to place on the grid", () => {
    expect(laidNow(state, true, 1.3)).toEqual({ at_s: 1.3, unit: "beat", lead: 2 });
  });
  test("paused: from the nearest beat, with the lead", () => {
    expect(laidNow(state, false, 1.3)).toEqual({ at_s: 1.5, unit: "beat", lead: 2 });
    expect(laidNow({ ...state, unit: "half" }, false, 1.3)).toMatchObject({ at_s: 1.25 });
  });
  test("free: where the playhead is", () => {
    expect(laidNow({ ...state, unit: "free" }, false, 1.3)).toMatchObject({ at_s: 1.3, unit: "free" });
  });
});

test("the shot under the playhead begins at its first frame and ends before the next", () => {
  const shots = [
    { start: 0, end: 10 },
    { start: 10, end: 30 },
  ];
  const edit = { shots } as unknown as EditView;
  expect([0, 9, 10, 29].map((f) => shotAt(edit, f)?.start)).toEqual([0, 0, 10, 10]);
  expect(shotAt(edit, 30)).toBeUndefined();
  expect(shotAt(undefined, 0)).toBeUndefined();
});
