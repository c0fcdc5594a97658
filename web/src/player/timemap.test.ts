import { describe, expect, it } from "vitest";
import cases from "../../../tests/cases/timemap.json";
import { frameAt, frameOnDisplay, mediaTime, mixAt, type Piece } from "./timemap";

interface Case {
  name: string;
  rate: string;
  pieces: Piece[];
  at: [number, number][];
}
const CASES = cases as unknown as Case[];

describe("time maps, by the table that the core is held to", () => {
  it.each(CASES)("$name", ({ rate, pieces, at }) => {
    const [num = 0, den = 1] = rate.split("/").map(Number);
    for (const [frame, time] of at) expect(mediaTime(pieces, frame, num / den)).toBeCloseTo(time, 9);
  });

  it("go on beyond their last piece, and are nothing without one", () => {
    expect(mediaTime([{ frames: 10, at_s: 2, speed: 1, end_speed: 1 }], 12, 10)).toBeCloseTo(3.25, 9);
    expect(mediaTime([], 5, 24)).toBe(0);
  });
});

/** The exact answer in whole numbers: floor((2n + 1) / 2 / programme * source). */
function exact(n: number, programme: [number, number], source: [number, number]): number {
  const top = BigInt(2 * n + 1) * BigInt(programme[1]) * BigInt(source[0]);
  const bottom = 2n * BigInt(programme[0]) * BigInt(source[1]);
  return Number(top / bottom);
}

const RATES: [number, number][] = [
  [24000, 1001],
  [24, 1],
  [25, 1],
  [30000, 1001],
  [30, 1],
  [50, 1],
  [60000, 1001],
  [60, 1],
  [120, 1],
];

describe("the frame rule", () => {
  it.each(RATES.flatMap((p) => RATES.map((s) => [p, s] as const)))(
    "is exact for programme %j and source %j",
    (p, s) => {
      const times = Array.from({ length: 2000 }, (_, k) => (k * s[1]) / s[0]);
      const rate = p[0] / p[1];
      const run: Piece[] = [{ frames: 5000, at_s: 0, speed: 1, end_speed: 1 }];
      for (let n = 0; exact(n, p, s) < 1990 && n < 600; n++) {
        expect(frameOnDisplay(times, mediaTime(run, n, rate))).toBe(exact(n, p, s));
      }
    },
  );

  it("follows uneven times as phones make them", () => {
    const times = [0, 0.033, 0.08, 0.1, 0.2];
    expect([0, 0.034, 0.079, 0.15, 9].map((t) => frameOnDisplay(times, t))).toEqual([0, 1, 1, 3, 4]);
    expect(frameOnDisplay(times, -1)).toBe(0);
    expect(frameOnDisplay([], 1)).toBe(0);
  });

  it("finds the frame at a moment, also at a film rate that is no decimal", () => {
    for (let n = 0; n < 5000; n++) expect(frameAt((n * 1001) / 24000, 24000 / 1001)).toBe(n);
  });
});

describe("what is mixed of two frames", () => {
  // As the film's: source_mixes of the same times.
  const times = [0, 0.04, 0.12, 0.16];
  it.each([
    [0.025, 0, 1 / 12],
    [0.075, 0, 11 / 12],
    [0.125, 1, 0.75],
    [0.175, 2, 0.875],
    [0.08, 1, 0],
    [0.0795, 1, 0],
    [0.5, 3, 0],
    [-1, 0, 0],
  ])("at %f s it is frame %i and %f of the next", (at, frame, share) => {
    const [shown, mixed] = mixAt(times, at);
    expect(shown).toBe(frame);
    expect(mixed).toBeCloseTo(share, 9);
  });

  it("is none at the clip's own speed, nor of a single frame", () => {
    const even = Array.from({ length: 50 }, (_, k) => k / 25);
    for (let k = 0; k < 49; k++) expect(mixAt(even, (k + 0.5) / 25)).toEqual([k, 0]);
    expect(mixAt([0], 3)).toEqual([0, 0]);
  });
});
