import { describe, expect, it } from "vitest";
import { besides, nearest, nextPlace, pulled, UNITS } from "./pulls";

const song = { falls: { beat: [0, 50, 100, 150], mark: [47, 120], line: [] as number[], free: [] as number[] } };

describe("a dragged cut", () => {
  it("is pulled to what cuts fall on within reach, and else stays where it is", () => {
    expect(pulled(101, song, "beat", 2)).toBe(100);
    expect(pulled(103, song, "beat", 2)).toBe(103);
    expect(pulled(48, song, "mark", 2)).toBe(47);
    expect(pulled(100, song, "free", 2)).toBe(100);
    expect(pulled(7, song, "line", 2)).toBe(7);
  });

  it("says how far it lies from the nearest", () => {
    expect(besides(47, song, "mark")).toBe("on the mark");
    expect(besides(49, song, "mark")).toBe("2 f after the mark");
    expect(besides(99, song, "free")).toBe("1 f before the beat");
    expect(besides(99, song, "line")).toBe("");
  });
});

describe("places of what cuts fall on", () => {
  it("are found as one by one", () => {
    const frames = [3, 10, 11, 40];
    for (let f = -5; f < 50; f++) {
      const slow = frames.reduce((a, b) => (Math.abs(b - f) < Math.abs(a - f) ? b : a));
      expect(Math.abs((nearest(f, frames) as number) - f)).toBe(Math.abs(slow - f));
    }
    expect(nearest(5, [])).toBeUndefined();
  });

  it("follow each other, and none lies beyond the last", () => {
    expect(nextPlace(47, song, "mark", 1)).toBe(120);
    expect(nextPlace(120, song, "mark", 1)).toBeUndefined();
    expect(nextPlace(100, song, "free", -1)).toBe(50);
  });

  it("have a name each", () => {
    expect(new Set(UNITS.map((u) => u.value)).size).toBe(UNITS.length);
  });
});
