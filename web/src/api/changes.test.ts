import { describe, expect, it } from "vitest";
import { broughtUp } from "./changes";
import type { EditView, ItemView, LaneView } from "./client";
import { shotsOf } from "./lanes";
import { editOf } from "./testEdit";

const item = (start: number) => ({ id: start, start, end: start + 1 }) as ItemView;

const span = (start: number) => ({ start, end: start + 1 }) as EditView["programme"]["layers"][number][number];
const view = (starts: number[], more: Partial<EditView> = {}) =>
  ({
    ...editOf(starts.map((s) => ({ start: s, end: s + 1 }))),
    programme: { layers: [starts.map(span)] },
    version: 1,
    kept: null,
    ...more,
  }) as unknown as EditView;
const NOTHING = [0, 0];

describe("an answer that holds only what changed", () => {
  it("is the whole edit together with what was known, whose parts stay the same objects", () => {
    const before = view([0, 10, 20, 30]);
    const answer = view([12], {
      version: 2,
      kept: { version: 1, lanes: [[1, 2], NOTHING, NOTHING], findings: NOTHING, layers: [[1, 2]] },
    });
    const after = broughtUp(before, answer);
    expect(shotsOf(after).map((s) => s.start)).toEqual([0, 12, 20, 30]);
    expect(after.programme.layers[0]?.map((s) => s.start)).toEqual([0, 12, 20, 30]);
    expect(shotsOf(after)[3]).toBe(shotsOf(before)[3]);
    expect(after.lanes[1]?.items, "a lane on which nothing changed").toBe(before.lanes[1]?.items);
    expect([after.version, after.kept]).toEqual([2, null]);
  });

  it("may have a lane more, or in another order", () => {
    const before = view([0, 10]);
    const [base, over, ranges] = before.lanes as [LaneView, LaneView, LaneView];
    const answer = view([], {
      lanes: [
        { ...base, items: [] },
        { ...ranges, items: [] },
        { ...over, id: 9, name: "More", items: [item(5)] },
        { ...over, items: [] },
      ],
      kept: { version: 1, lanes: [[2, 0], NOTHING, NOTHING, NOTHING], findings: NOTHING, layers: [[2, 0]] },
    });
    const after = broughtUp(before, answer);
    expect(after.lanes.map((lane) => [lane.name, lane.items.length])).toEqual([
      ["Shots", 2],
      ["Treated ranges", 0],
      ["More", 1],
      ["Cutaways", 0],
    ]);
  });

  it("may have a layer more or less than before", () => {
    const before = view([0, 10]);
    const kept = {
      version: 1,
      lanes: [[2, 0], NOTHING, NOTHING],
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
