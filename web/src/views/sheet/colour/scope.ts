/** Measurements of a picture for the scopes: lightness along its width, how much of each hue, and what is clipped. Pure. */

/** Luma of a point, 0 to 255 (ITU-R BT.709). */
export const luma = (r: number, g: number, b: number): number => 0.2126 * r + 0.7152 * g + 0.0722 * b;

export interface Scope {
  /** How many points of each column have each lightness, the darkest first: column by column. */
  wave: Uint16Array;
  columns: number;
  /** How much colour there is of each of 72 hues, the largest as 1. */
  hues: Float32Array;
  /** Shares of points of which a colour is at the end of its scale. */
  dark: number;
  bright: number;
}

export const LEVELS = 64;
export const HUES = 72;

/** Hue in degrees, and the strength of colour, 0 to 1. */
export function hueOf(r: number, g: number, b: number): [hue: number, strength: number] {
  const most = Math.max(r, g, b);
  const apart = most - Math.min(r, g, b);
  if (!apart) return [0, 0];
  const sixth = most === r ? (g - b) / apart : most === g ? 2 + (b - r) / apart : 4 + (r - g) / apart;
  return [(60 * sixth + 360) % 360, apart / 255];
}

/** Whether a point is at an end of the scale, and which. */
export function clippedAt(points: Uint8ClampedArray, n: number): "dark" | "bright" | null {
  const most = Math.max(points[4 * n] as number, points[4 * n + 1] as number, points[4 * n + 2] as number);
  return most <= 2 ? "dark" : most >= 253 ? "bright" : null;
}

/** Measure a picture of RGBA points. */
export function measured(points: Uint8ClampedArray, width: number): Scope {
  const wave = new Uint16Array(width * LEVELS);
  const hues = new Float32Array(HUES);
  let [dark, bright] = [0, 0];
  const count = points.length / 4;
  for (let n = 0; n < count; n++) {
    const [r, g, b] = [points[4 * n] as number, points[4 * n + 1] as number, points[4 * n + 2] as number];
    const level = Math.min(LEVELS - 1, Math.floor((luma(r, g, b) * LEVELS) / 256));
    const at = (n % width) * LEVELS + level;
    wave[at] = (wave[at] as number) + 1;
    const [hue, strength] = hueOf(r, g, b);
    const bin = Math.floor((hue * HUES) / 360) % HUES;
    hues[bin] = (hues[bin] as number) + strength;
    const end = clippedAt(points, n);
    if (end === "dark") dark++;
    else if (end) bright++;
  }
  const most = Math.max(...hues, 1e-9);
  return { wave, columns: width, hues: hues.map((h) => h / most), dark: dark / count, bright: bright / count };
}
