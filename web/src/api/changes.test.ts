import { describe, expect, it } from "vitest";
import { broughtUp } from "./changes";
import type { EditView } from "./client";

const shot = (start: number, end: number) => ({ start, end }) as EditView["shots"][number];
const span = (start: number) => ({ start, end: start + 1 }) as EditView["programme"]["layers"][number][number];
const view = (starts: number[], more: Partial<EditView> = {}) =>
  ({
    shots: starts.map((s) => shot(s, s + 1)),
    cutaways: [],
    findings: [],
    programme: { layers: [starts.map(span)] },
    version: 1,
    kept: null,
    ...more,
  }) as unknown as EditView;

describe("an answer that holds only what changed", () => {
  it("is the whole edit together with what was known, whose parts stay the same objects", () => {
    const before = view([0, 10, 20, 30]);
    const answer = view([12], {
      version: 2,
      kept: { version: 1, shots: [1, 2], cutaways: [0, 0], findings: [0, 0], layers: [[1, 2]] },
    });
    const after = broughtUp(before, answer);
    expect(after.shots.map((s) => s.start)).toEqual([0, 12, 20, 30]);
    expect(after.programme.layers[0]?.map((s) => s.start)).toEqual([0, 12, 20, 30]);
    expect(after.shots[3]).toBe(before.shots[3]);
    expect([after.version, after.kept]).toEqual([2, null]);
  });

  it("may have a layer more or less than before", () => {
    const before = view([0, 10]);
    const kept = {
      version: 1,
      shots: [2, 0],
      cutaways: [0, 0],
      findings: [0, 0],
      layers: [
        [2, 0],
        [0, 0],
      ],
    };
    const more = broughtUp(before, {
      ...view([]),
      kept,
      programme: { ...before.programme, layers: [[], [span(5)]] },
    });
    expect(more.programme.layers.map((l) => l.map((s) => s.start))).toEqual([[0, 10], [5]]);
    const less = broughtUp(more, { ...view([]), kept: { ...kept, layers: [[2, 0]] }, programme: before.programme });
    expect(less.programme.layers).toHaveLength(1);
  });

  it("is taken as it is where it holds everything", () => {
    const whole = view([3, 4]);
    expect(broughtUp(view([0]), whole)).toBe(whole);
  });
});
