import { describe, expect, it } from "vitest";
import { placeOf } from "./screens";

describe("a playhead told to another window", () => {
  it("goes on at its speed from where it was, and stands where it stands", () => {
    expect(placeOf({ at: 12, speed: 1, time: 5000 }, 5500)).toBe(12.5);
    expect(placeOf({ at: 12, speed: -2, time: 5000 }, 5500)).toBe(11);
    expect(placeOf({ at: 12, speed: 0, time: 5000 }, 9000)).toBe(12);
  });

  it("never runs ahead of a word whose time lies in the future", () => {
    expect(placeOf({ at: 12, speed: 1, time: 5000 }, 4000)).toBe(12);
  });
});
