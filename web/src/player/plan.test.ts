import { describe, expect, it } from "vitest";
import { keptPieces, toSong, toWorking } from "../parts/format";
import { latencyOf } from "./latency";
import { curve, keptClicks, planOf } from "./plan";

const kept = [
  [0, 10],
  [14, 20],
  [25, 40],
] as const;

describe("the two clocks of a cutdown", () => {
  it("agree on what is kept, and put what is left out on its join", () => {
    for (const song of [0, 3.3, 9.999, 14, 19.5, 25, 39]) expect(toSong(kept, toWorking(kept, song))).toBeCloseTo(song);
    expect(toWorking(kept, 12)).toBe(10);
    expect(toWorking(kept, 99)).toBe(31);
    expect(toSong(kept, 10)).toBe(14);
  });

  it("divide a pass into the pieces that are kept", () => {
    expect(keptPieces(kept, 8, 27)).toEqual([
      { from: 8, to: 10, at: 8 },
      { from: 14, to: 20, at: 10 },
      { from: 25, to: 27, at: 16 },
    ]);
  });
});

describe("playing a cutdown", () => {
  it("plays the programme's own pieces, and all of the song where nothing is left out", () => {
    const level = { gain_db: 0, fade_in_s: 1, fade_out_s: 2, shape: "slow" as const };
    const piece = { media: "s", at_s: 9.98, media_s: 13.98, seconds: 6.02, fade_in_s: 0.02, fade_out_s: 0 };
    const plan = planOf({ pieces: [piece], ...level }, kept);
    expect(plan.pieces).toEqual([{ at: 9.98, offset: 13.98, seconds: 6.02, fadeIn: 0.02, fadeOut: 0 }]);
    expect([plan.fadeIn, plan.fadeOut, plan.shape]).toEqual([1, 2, "slow"]);
    expect(planOf({ pieces: [piece], ...level }, []).pieces).toEqual([]);
  });

  it("crossfades with equal power", () => {
    const [up, down] = [curve("power", 0, true), curve("power", 0, false)];
    up.forEach((gain, i) => {
      expect(gain ** 2 + (down[i] as number) ** 2).toBeCloseTo(1, 5);
    });
  });

  it("goes on inside a fade where playing starts there", () => {
    const whole = curve("smooth", 0, true);
    const half = curve("smooth", 0.5, true);
    expect(half[0]).toBeCloseTo(whole[32] as number, 5);
    expect(half.at(-1)).toBe(1);
  });
});

it("clicks on what is kept, in its time", () => {
  const clicks = [0, 1, 2, 3, 4].map((time) => ({ at: time, down: time === 3 }));
  const some = [
    [0, 1.5],
    [3, 5],
  ];
  expect(keptClicks(clicks, some)).toEqual([
    { at: 0, down: false },
    { at: 1, down: false },
    { at: 1.5, down: true },
    { at: 2.5, down: false },
  ]);
  expect(keptClicks(clicks, null)).toEqual(clicks);
});

describe("how late taps are", () => {
  const clicks = [1, 1.6, 2.2, 2.8, 3.4, 4, 4.6, 5.2];
  it("is the median, though one tap is far off and one is missing", () => {
    const taps = clicks.slice(1).map((c, i) => c + 0.08 + (i === 2 ? 0.2 : 0) + 0.004 * (i % 2));
    expect(latencyOf(clicks, taps)).toBeCloseTo(0.082, 2);
  });
  it("is not told from too few taps", () => {
    expect(latencyOf(clicks, [1.1, 1.7])).toBeNull();
  });
});
