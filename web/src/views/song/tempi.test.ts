import { describe, expect, it } from "vitest";
import { tempoTags } from "./tempi";

const stretch = (start_s: number, end_s: number, bpm: number) => ({ start_s, end_s, bpm, steady: true });
const passage = {
  factor: 1,
  tempo: [stretch(0, 84, 145), stretch(84, 99, 126), stretch(99, 233, 145)],
};

describe("tags of tempo", () => {
  it("stand where another tempo begins", () => {
    expect(tempoTags(passage, { from: 0, to: 233 }, 1000).map((t) => [t.at, Math.round(t.x), t.bpm])).toEqual([
      [0, 0, 145],
      [84, 361, 126],
      [99, 425, 145],
    ]);
  });
  it("are not there in a song of one tempo", () => {
    expect(tempoTags({ factor: 1, tempo: [stretch(0, 233, 145)] }, { from: 0, to: 233 }, 1000)).toEqual([]);
  });
  it("say what is in force at the left edge", () => {
    expect(tempoTags(passage, { from: 90, to: 95 }, 1000).map((t) => [t.x, t.bpm])).toEqual([[0, 126]]);
  });
  it("follow when the song is counted at half", () => {
    expect(tempoTags({ ...passage, factor: 0.5 }, { from: 0, to: 233 }, 1000).map((t) => t.bpm)).toEqual([
      72.5, 63, 72.5,
    ]);
  });
  it("never lie over one another nor over the edge", () => {
    const many = { factor: 1, tempo: Array.from({ length: 60 }, (_, i) => stretch(i * 4, i * 4 + 4, 100 + i)) };
    const tags = tempoTags(many, { from: 0, to: 240 }, 900);
    expect(tags.length).toBeGreaterThan(5);
    for (const [i, t] of tags.entries()) {
      expect(t.x + 56).toBeLessThanOrEqual(900);
      if (i) expect(t.x - (tags[i - 1]?.x ?? 0)).toBeGreaterThanOrEqual(56);
    }
  });
});
