import { describe, expect, it } from "vitest";
import { type Reading, rowsOf } from "./readings";

const reading = (more: Partial<Reading>): Reading => ({
  tempo_bpm: 120,
  shift_beats: 0,
  score: 1,
  reason: "",
  ...more,
});

describe("the ways to count", () => {
  const found = {
    beats: [0.5, 1, 1.5, 2, 2.5, 3, 3.5, 4, 4.5],
    bars: [1, 5],
    bpm: 120,
    factor: 1,
    half_shift: false,
    straight: false,
    from_file: false,
    as_found: true,
    readings: [
      reading({}),
      reading({ tempo_bpm: 60, score: 0.7, reason: "every second beat stands out" }),
      reading({ tempo_bpm: 240, score: 0.2 }),
      reading({ shift_beats: 2, score: 0.4 }),
      reading({ tempo_bpm: 80, score: 0.3 }),
    ],
  };
  const names = (more: Partial<typeof found>) =>
    rowsOf({ ...found, ...more }, 1).map((r) => `${r.on ? "on " : ""}${r.name} ${r.bpm}`);

  it("begin with what was found, and then the likeliest", () => {
    expect(names({})).toEqual([
      "on as found 120",
      "half as fast 60",
      "the one 2 beats later 120",
      "another reading 80",
      "twice as fast 240",
      "shifted by half a beat 120",
    ]);
  });

  it("say the tempo that is in force beside the one that was taken, and take it back with a click", () => {
    const half = { factor: 0.5, bpm: 60, as_found: false };
    expect(names(half).slice(0, 3)).toEqual(["as found 120", "on half as fast 60", "the one a beat later 60"]);
    expect(names(half)).toContain("half of that 30");
    const [, on] = rowsOf({ ...found, ...half }, 1);
    expect(on?.correction.action).toBe("double");
    expect(on?.reading?.reason).toBe("every second beat stands out");
    const twice = rowsOf({ ...found, factor: 2, bpm: 240, as_found: false }, 1)[1];
    expect([twice?.on, twice?.bpm, twice?.correction.action]).toEqual([true, 240, "halve"]);
  });

  it("go no further than a quarter and four times", () => {
    expect(names({ factor: 0.25, bpm: 30 }).join()).not.toContain("half of that");
    expect(names({ factor: 4, bpm: 480 }).join()).not.toContain("twice that");
  });

  it("take a tapped third back whole", () => {
    const [, thrice] = rowsOf({ ...found, factor: 3, bpm: 360 }, 1);
    expect([thrice?.name, thrice?.bpm, thrice?.correction.action]).toEqual(["three times as fast", 360, "as found"]);
    expect(rowsOf({ ...found, factor: 1 / 3, bpm: 40 }, 1)[1]?.correction.action).toBe("as found");
  });

  it("move the one by beats as they are counted now, where it falls on one", () => {
    const one = (factor: number) => rowsOf({ ...found, factor }, 1).find((r) => r.key === "other one");
    expect(one(1)?.correction).toEqual({ action: "the one", song_s: 2 });
    expect(one(0.5)?.correction).toEqual({ action: "the one", song_s: 1.5 });
    expect(one(0.25)).toBeUndefined();
  });
});
