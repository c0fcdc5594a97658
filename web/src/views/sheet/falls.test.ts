import { describe, expect, test } from "vitest";
import { editOf } from "../../api/testEdit";
import { fallsNow, laidNow, shotAt } from "./falls";

const state = { unit: "beat" };

describe("where a cut is asked for", () => {
  test("while playing: on the chosen grid, with the lead that is set where the point lies", () => {
    expect(fallsNow(state, true, 1.23)).toEqual({ working_s: 1.23, unit: "beat" });
  });
  test("paused: at the very frame under the playhead", () => {
    const falls = fallsNow(state, false, 25 / 24);
    expect(falls).toMatchObject({ unit: "free" });
    expect(Math.floor(falls.working_s * 24)).toBe(25);
  });
});

describe("where a clip is laid", () => {
  test("while playing: where the playhead is, for the server to place on the grid", () => {
    expect(laidNow(state, true, 1.3)).toEqual({ working_s: 1.3, unit: "beat" });
  });
  test("paused: at the playhead's frame, for the server to place on the same grid", () => {
    const laid = laidNow(state, false, 25 / 24);
    expect(laid).toMatchObject({ unit: "beat" });
    expect(Math.floor(laid.working_s * 24)).toBe(25);
  });
});

test("the shot under the playhead begins at its first frame and ends before the next", () => {
  const shots = [
    { start: 0, end: 10 },
    { start: 10, end: 30 },
  ];
  const edit = editOf(shots);
  expect([0, 9, 10, 29].map((f) => shotAt(edit, f)?.start)).toEqual([0, 0, 10, 10]);
  expect(shotAt(edit, 30)).toBeUndefined();
  expect(shotAt(undefined, 0)).toBeUndefined();
});
