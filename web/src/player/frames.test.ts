import { describe, expect, it } from "vitest";
import { frameAt, frameOnDisplay, mediaTime, type Span, spanAt } from "./frames";

const span = (start: number, end: number, media: string | null, in_s = 0, speed = 1): Span => ({
  start,
  end,
  media,
  in_s,
  speed,
  label: "",
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
      const run = span(0, 5000, "m");
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

  it("finds frames and spans", () => {
    const spans = [span(0, 10, "a"), span(10, 11, null), span(15, 30, "b", 2, 0.5)];
    expect([0, 9, 10, 12, 15, 29, 30].map((f) => spanAt(spans, f)?.media)).toEqual([
      "a",
      "a",
      null,
      undefined,
      "b",
      "b",
      undefined,
    ]);
    expect(mediaTime(spans[2] as Span, 15, 24)).toBeCloseTo(2 + 0.25 / 24, 12);
    for (let n = 0; n < 5000; n++) expect(frameAt((n * 1001) / 24000, 24000 / 1001)).toBe(n);
  });
});
