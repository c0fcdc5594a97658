import { describe, expect, it } from "vitest";
import { nearestIndex, shifted, xOf, zoomed } from "./view";

describe("zooming the score", () => {
  it("keeps the moment under the pointer in its place, down to samples", () => {
    let view = { from: 0, to: 200 };
    for (let i = 0; i < 80; i++) {
      const before = xOf(view, 123.456, 1000);
      const next = zoomed(view, 123.456, 0.8, 200);
      expect(xOf(next, 123.456, 1000)).toBeCloseTo(before, 3);
      view = next;
    }
    expect(view.to - view.from).toBeCloseTo(0.0004, 6);
  });
  it("never leaves the song", () => {
    expect(shifted({ from: 0, to: 10 }, 195, 200)).toEqual({ from: 190, to: 200 });
    expect(zoomed({ from: 90, to: 110 }, 100, 100, 200)).toEqual({ from: 0, to: 200 });
  });
});

describe("the nearest of ascending times", () => {
  it.each([
    [-1, 0],
    [1.4, 1],
    [1.6, 2],
    [9, 3],
  ])("to %d is the one at index %d", (at, index) => {
    expect(nearestIndex([0, 1, 2, 3], at)).toBe(index);
  });
  it("is none where there are none", () => {
    expect(nearestIndex([], 1)).toBe(-1);
  });
});
