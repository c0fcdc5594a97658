import { describe, expect, it } from "vitest";
import { same, spansOf } from "./spans";

const song = {
  doubtful: [{ start_s: 40, end_s: 52, reason: "free" }],
  tapped: [{ start_s: 10, end_s: 20, bpm: 96 }],
};

describe("passages that can be tapped by themselves", () => {
  it("come in the order of the song, each with what it is", () => {
    expect(spansOf(song, null).map((s) => [s.kind, s.start_s])).toEqual([
      ["tapped", 10],
      ["doubtful", 40],
    ]);
  });
  it("take in the loop range, unless it is one of them", () => {
    expect(spansOf(song, [25, 30]).map((s) => s.kind)).toEqual(["tapped", "loop", "doubtful"]);
    expect(spansOf(song, [40.004, 51.99]).map((s) => s.kind)).toEqual(["tapped", "doubtful"]);
    expect(spansOf({ doubtful: [], tapped: [] }, null)).toEqual([]);
  });
  it("are the same to a few milliseconds only", () => {
    expect(same({ start_s: 1, end_s: 2 }, { start_s: 1.015, end_s: 2 })).toBe(true);
    expect(same({ start_s: 1, end_s: 2 }, { start_s: 1, end_s: 2.05 })).toBe(false);
  });
});
