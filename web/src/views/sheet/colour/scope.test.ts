import { describe, expect, test } from "vitest";
import { HUES, hueOf, LEVELS, measured } from "./scope";

const of = (points: number[][]) => new Uint8ClampedArray(points.flatMap((p) => [...p, 255]));

describe("scopes", () => {
  test("hues of the six full colours", () => {
    const full = [
      [255, 0, 0],
      [255, 255, 0],
      [0, 255, 0],
      [0, 255, 255],
      [0, 0, 255],
      [255, 0, 255],
    ] as const;
    expect(full.map(([r, g, b]) => hueOf(r, g, b))).toEqual([0, 60, 120, 180, 240, 300].map((h) => [h, 1]));
    expect(hueOf(90, 90, 90)).toEqual([0, 0]);
  });

  test("each column of the wave counts its own points by lightness", () => {
    const { wave, columns } = measured(
      of([
        [0, 0, 0],
        [255, 255, 255],
        [0, 0, 0],
        [128, 128, 128],
      ]),
      2,
    );
    expect(columns).toBe(2);
    expect(wave[0]).toBe(2);
    expect(wave[LEVELS + LEVELS - 1]).toBe(1);
    expect(wave[LEVELS + LEVELS / 2]).toBe(1);
  });

  test("clipped points are those at an end, and hues are relative to the most", () => {
    const scope = measured(
      of([
        [0, 0, 0],
        [255, 10, 10],
        [100, 50, 50],
        [50, 50, 100],
      ]),
      4,
    );
    expect(scope.dark).toBe(0.25);
    expect(scope.bright).toBe(0.25);
    expect(scope.hues[0]).toBe(1);
    expect(scope.hues[(240 * HUES) / 360]).toBeGreaterThan(0);
  });
});
