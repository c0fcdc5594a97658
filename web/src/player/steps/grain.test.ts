import { describe, expect, it } from "vitest";
import { beginsAt, pattern } from "./grain";

describe("the tile of grain", () => {
  it("is the film's", () => {
    expect([...pattern().slice(0, 6)]).toEqual([50, -131, 224, 183, 94, 20]);
    expect(pattern()).toHaveLength(65536);
  });

  it("begins where the film's does", () => {
    expect([0, 1, 77, 123456].map(beginsAt)).toEqual([
      [0, 0],
      [158, 54],
      [150, 174],
      [0, 252],
    ]);
  });
});
