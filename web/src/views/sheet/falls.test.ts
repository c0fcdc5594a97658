import { describe, expect, test } from "vitest";
import type { EditView, ProjectState } from "../../api/client";
import { fallsNow, laidNow, leadAt, shotAt } from "./falls";

const state = { unit: "beat", lead: 2, song: null };

test("a section may have a lead of its own", () => {
  const sections = [
    { end_s: 10, lead: null },
    { end_s: 20, lead: 5 },
    { end_s: 30, lead: 0 },
  ];
  const song = { sections } as unknown as NonNullable<ProjectState["song"]>;
  expect([1, 10, 19.9, 25, 40].map((at) => leadAt({ lead: 2, song }, at))).toEqual([2, 5, 5, 0, 0]);
  expect(fallsNow({ ...state, song }, true, 12).lead).toBe(5);
  expect(leadAt(state, 3)).toBe(2);
});

describe("where a cut falls", () => {
  test("while playing: on the chosen grid with the chosen lead", () => {
    expect(fallsNow(state, true, 1.23)).toEqual({ working_s: 1.23, unit: "beat", lead: 2 });
  });
  test("paused: at the very frame under the playhead, without lead", () => {
    const falls = fallsNow(state, false, 25 / 24);
    expect(falls).toMatchObject({ unit: "free", lead: 0 });
    expect(Math.floor(falls.working_s * 24)).toBe(25);
  });
});

describe("where a clip is laid", () => {
  test("while playing: where the playhead is, for the server to place on the grid", () => {
    expect(laidNow(state, true, 1.3)).toEqual({ working_s: 1.3, unit: "beat", lead: 2 });
  });
  test("paused: at the playhead's frame, for the server to place on the same grid", () => {
    const laid = laidNow(state, false, 25 / 24);
    expect(laid).toMatchObject({ unit: "beat", lead: 2 });
    expect(Math.floor(laid.working_s * 24)).toBe(25);
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
