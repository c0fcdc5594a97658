import { describe, expect, it } from "vitest";
import { clicksOf, keptClicks, type Reading, type Row, rowsOf } from "./readings";

const song = { beats: [0.5, 1, 1.5, 2, 2.5, 3, 3.5, 4, 4.5], bars: [1, 5], bpm: 120, seconds: 5 };
const reading = (more: Partial<Reading>): Reading => ({
  tempo_bpm: 120,
  shift_beats: 0,
  score: 1,
  reason: "",
  ...more,
});
const clicks = (key: string, more: Partial<Row> = {}) => clicksOf(song, { key, bpm: 120, ...more });
const at = (key: string, more?: Partial<Row>) => clicks(key, more).map((c) => c.at);
const downs = (key: string, more?: Partial<Row>) => clicks(key, more).flatMap((c) => (c.down ? [c.at] : []));

describe("the clicks of another way to count", () => {
  it("fall on every other beat, from the one on", () => {
    expect(at("halve")).toEqual([1, 2, 3, 4]);
    expect(downs("halve")).toEqual([1, 3]);
  });

  it("fall half-way too", () => {
    expect(at("double").slice(0, 4)).toEqual([0.5, 0.75, 1, 1.25]);
    expect(at("double")).toHaveLength(17);
    expect(downs("double")).toEqual([1, 3]);
  });

  it("fall half-way alone", () => {
    expect(at("half")).toEqual([0.75, 1.25, 1.75, 2.25, 2.75, 3.25, 3.75, 4.25]);
    expect(downs("half")).toEqual([1.25, 3.25]);
  });

  it("stay, with another beat as the one", () => {
    expect(at("other one", { beats: 2 })).toEqual(song.beats);
    expect(downs("other one", { beats: 2 })).toEqual([2, 4]);
  });

  it("are straight at another tempo, to the song's end", () => {
    const straight = at("other 90", { bpm: 90 });
    expect(straight[1]).toBeCloseTo((straight[0] ?? 0) + 60 / 90, 9);
    expect(straight.at(-1)).toBeLessThan(5);
  });

  it("are those of what is kept, in its time", () => {
    const clicks = [0, 1, 2, 3, 4].map((time) => ({ at: time, down: time === 3 }));
    const kept = [
      [0, 1.5],
      [3, 5],
    ];
    expect(keptClicks(clicks, kept)).toEqual([
      { at: 0, down: false },
      { at: 1, down: false },
      { at: 1.5, down: true },
      { at: 2.5, down: false },
    ]);
    expect(keptClicks(clicks, null)).toEqual(clicks);
  });
});

describe("the ways to count", () => {
  const found = {
    ...song,
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
    expect(on?.action).toBe("double");
    expect(on?.reading?.reason).toBe("every second beat stands out");
    const twice = rowsOf({ ...found, factor: 2, bpm: 240, as_found: false }, 1)[1];
    expect([twice?.on, twice?.bpm, twice?.action]).toEqual([true, 240, "halve"]);
  });

  it("go no further than a quarter and four times", () => {
    expect(names({ factor: 0.25, bpm: 30 }).join()).not.toContain("half of that");
    expect(names({ factor: 4, bpm: 480 }).join()).not.toContain("twice that");
  });

  it("take a tapped third back whole", () => {
    const [, thrice] = rowsOf({ ...found, factor: 3, bpm: 360 }, 1);
    expect([thrice?.name, thrice?.bpm, thrice?.action]).toEqual(["three times as fast", 360, "as found"]);
    expect(rowsOf({ ...found, factor: 1 / 3, bpm: 40 }, 1)[1]?.action).toBe("as found");
  });

  it("move the one by beats as they are counted now, where it falls on one", () => {
    const one = (factor: number) => rowsOf({ ...found, factor }, 1).find((r) => r.key === "other one");
    expect(one(1)?.given).toEqual({ song_s: 2 });
    expect(one(0.5)?.given).toEqual({ song_s: 1.5 });
    expect(one(0.25)).toBeUndefined();
  });
});
