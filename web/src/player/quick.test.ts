import { describe, expect, it } from "vitest";
import type { Lut } from "./luts";
import { ColourTable, fromHalf } from "./quick";

/** Bits of a number as a half float, cut off. */
function half(value: number): number {
  if (value <= 0) return 0;
  const exponent = Math.max(-14, Math.floor(Math.log2(value)));
  const share = value / 2 ** exponent - 1;
  return ((exponent + 15) << 10) | Math.round(share * 1024);
}

function lut(size: number, of: (r: number, g: number, b: number) => [number, number, number]): Lut {
  const points = new Uint16Array(4 * size ** 3);
  let n = 0;
  for (let b = 0; b < size; b++)
    for (let g = 0; g < size; g++)
      for (let r = 0; r < size; r++) {
        const colour = of(r / (size - 1), g / (size - 1), b / (size - 1));
        points.set([...colour.map(half), half(1)], n);
        n += 4;
      }
  return { size, points };
}

const packed = (r: number, g: number, b: number, a = 255) => (r | (g << 8) | (b << 16) | (a << 24)) >>> 0;
const colours = (points: Uint32Array) => [...points].map((p) => [p & 255, (p >> 8) & 255, (p >> 16) & 255, p >>> 24]);
const ALL = Array.from({ length: 256 }, (_, v) => v);

describe("colours looked up on the processor", () => {
  it("reads half floats as they are written", () => {
    expect([0x3c00, 0x3800, 0xc000, 0x0001, 0, 0x3555].map(fromHalf)).toEqual([
      1,
      0.5,
      -2,
      2 ** -24,
      0,
      0.333251953125,
    ]);
  });

  it("leaves every value as it is where the table does, to one", () => {
    const points = Uint32Array.from(ALL, (v) => packed(v, 255 - v, (7 * v) & 255, v));
    const before = colours(points);
    new ColourTable([lut(33, (r, g, b) => [r, g, b])]).apply(points);
    for (const [n, after] of colours(points).entries()) {
      expect(after[3]).toBe(before[n]?.[3]);
      for (let k = 0; k < 3; k++)
        expect(Math.abs((after[k] as number) - (before[n]?.[k] as number))).toBeLessThanOrEqual(1);
    }
  });

  it("is within two of the tables that follow each other, in the mean within one", () => {
    // Half as bright, then red and blue changed about and bent.
    const dim = lut(17, (r, g, b) => [0.5 * r, 0.5 * g, 0.5 * b]);
    const turn = lut(33, (r, g, b) => [b, g, Math.sqrt(r)]);
    const points = Uint32Array.from(ALL, (v) => packed(v, (3 * v) & 255, (5 * v) & 255));
    const before = colours(points);
    new ColourTable([dim, turn]).apply(points);
    let sum = 0;
    for (const [n, after] of colours(points).entries()) {
      const [r, g, b] = before[n] as number[] as [number, number, number];
      if (r < 24) continue; // a root rises without end at 0, and a table is straight between its points
      const wanted = [0.5 * b, 0.5 * g, 255 * Math.sqrt((0.5 * r) / 255)];
      for (let k = 0; k < 3; k++) {
        const off = Math.abs((after[k] as number) - (wanted[k] as number));
        expect(off).toBeLessThanOrEqual(2);
        sum += off / (3 * 256);
      }
    }
    expect(sum).toBeLessThan(1);
  });

  it("never lets a colour run over into its neighbour", () => {
    const points = Uint32Array.from(ALL, (v) => packed(255, v, 0));
    new ColourTable([lut(2, (r, g, b) => [Math.min(1, 1.5 * r), g, b])]).apply(points);
    for (const [n, [r, g, b]] of colours(points).entries()) {
      expect(r).toBeGreaterThanOrEqual(252);
      expect(Math.abs((g as number) - n)).toBeLessThanOrEqual(1);
      expect(b).toBeLessThanOrEqual(1);
    }
  });
});
