import { describe, expect, it } from "vitest";
import { pointOf, seenPart } from "./Frames";

describe("what is seen of an enlarged picture", () => {
  it("holds the point it is enlarged about at its place", () => {
    for (const [scale, x, y] of [
      [1.25, 0.2, 0.9],
      [2, 0.5, 0],
      [4, 1, 1],
    ] as const) {
      const part = seenPart(scale, x, y);
      // The point lies as far across what is seen as it lay across the whole.
      expect((x - part.left) / part.size).toBeCloseTo(x, 9);
      expect((y - part.top) / part.size).toBeCloseTo(y, 9);
      expect(pointOf(scale, part.left, part.top).x).toBeCloseTo(x, 9);
      expect(pointOf(scale, part.left, part.top).y).toBeCloseTo(y, 9);
    }
  });

  it("never leaves the picture, and has no place to go where all is seen", () => {
    expect(pointOf(2, -1, 3)).toEqual({ x: 0, y: 1 });
    expect(pointOf(1, 0.4, 0.4)).toEqual({ x: 0.5, y: 0.5 });
    expect(seenPart(1, 0.3, 0.3)).toEqual({ left: 0, top: 0, size: 1 });
  });
});
