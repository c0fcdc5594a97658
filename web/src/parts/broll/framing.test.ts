import { describe, expect, it } from "vitest";
import cases from "../../../../tests/cases/framings.json";
import { filling, moved, puts, rectangle, resized, shown, whole } from "./framing";

const FILM: [number, number] = [1920, 1080];
const fit = { how: "own", x: 0.5, y: 0.5, scale: 1, turn: 0, to: null } as const;

describe("framings of a still", () => {
  it("lie whole in the film, turned as they are seen", () => {
    expect(whole({ width: 1440, height: 1080, fit }, FILM)).toEqual([0.75, 1]);
    expect(whole({ width: 1080, height: 1920, fit: { ...fit, turn: 90 } }, FILM)).toEqual([1, 1]);
  });

  it("take a rectangle as large as they leave of the film", () => {
    expect(rectangle({ x: 0.5, y: 0.5, scale: 2 }, [1, 1])).toEqual([0.25, 0.25, 0.5, 0.5]);
    // A narrow picture at twice its whole size has room only up and down... and a little sideways.
    const [left, top, w, h] = rectangle({ x: 0, y: 1, scale: 2 }, [0.75, 1]);
    expect([left, top, w, h].map((v) => Math.round(1e6 * v) / 1e6)).toEqual([0.125, 0.5, 0.5, 0.5]);
  });

  it("never bring an edge into a frame that is filled", () => {
    for (const scale of [1, 1.4, 3, 9])
      for (const x of [0, 0.3, 1])
        for (const shares of [
          [0.75, 1],
          [1, 0.4],
        ] as [number, number][]) {
          const [left, , w] = rectangle({ x, y: 0.5, scale }, shares);
          const [edge, end] = [0.5 - shares[0] / 2, 0.5 + shares[0] / 2];
          if (w <= shares[0]) {
            expect(left).toBeGreaterThanOrEqual(edge - 1e-9);
            expect(left + w).toBeLessThanOrEqual(end + 1e-9);
          } else expect(shown({ x, y: 0.5, scale }, shares).x).toBe(0.5);
        }
  });

  it("are moved and resized about their middle", () => {
    const at = { x: 0.5, y: 0.5, scale: 2 };
    expect(moved(at, [0.1, -0.05], [1, 1])).toEqual({ x: 0.6, y: 0.45, scale: 2 });
    expect(moved(at, [9, 0], [1, 1]).x).toBe(0.75);
    expect(resized(at, 0.25, [1, 1]).scale).toBe(4);
    expect(resized(at, 0, [1, 1]).scale).toBe(10);
    expect(filling([0.75, 1])).toBe(1.333);
  });
});

describe("the middle that a framing shows, by the table that the core is held to", () => {
  it.each(cases)("$picture in $film, $fit.scale times", ({ film, picture, fit, middle }) => {
    const [width, height] = picture as [number, number];
    const shares = whole({ width, height, fit: fit as never }, film as [number, number]);
    const { x, y } = shown(fit, shares);
    expect(x).toBeCloseTo(middle[0] as number, 9);
    expect(y).toBeCloseTo(middle[1] as number, 9);
  });

  it.each(cases)("$picture in $film is put where the core puts it", ({ film, picture, fit, centre }) => {
    const [width, height] = picture as [number, number];
    const shares = whole({ width, height, fit: fit as never }, film as [number, number]);
    const scale = fit.scale / Math.max(...shares);
    for (const [axis, at] of [fit.x, fit.y].entries()) {
      const size = (shares[axis] as number) * scale;
      const back = puts(centre[axis] as number, size);
      // Beyond its room a large picture's edge stays at the frame's, whatever was asked for.
      if (size < 1 || Math.abs(at - 0.5) < (1 - 1 / size) / 2 - 1e-6) expect(back).toBeCloseTo(at, 3);
      else expect(Math.abs(back - 0.5)).toBeLessThan(0.5);
    }
  });
});
