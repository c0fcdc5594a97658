/**
 * Colours of a playing picture on the processor: each point looked up in one table of all its steps, filled as colours come up.
 *
 * Where WebGL2 is made by software, a pass over a picture and its way back take longer than a frame lasts. A table of six
 * bits a colour takes one access for a point instead; what the six bits leave out of a colour is added where the table rises
 * there, so that gradients stay smooth. While it stands, a picture goes through the steps themselves.
 */

import type { Act } from "./chain";
import { type Lut, luts } from "./luts";
import { numberOf } from "./numbered";

/** Steps that change each colour by itself. */
export const OF_COLOUR: ReadonlySet<string> = new Set(["grade", "table"]);
/** Most tables kept, each of 1 MB. */
const KEPT = 40;
const CELLS = 1 << 18;
/** The two bits of each colour that the table leaves out. */
const LEFT_OUT = 0x00030303;
/** Said of every cell that is known, beside a bit for each colour to which what is left out is added. */
const KNOWN = 8;
const ADDED = Uint32Array.from({ length: 2 * KNOWN }, (_, bits) =>
  [0, 1, 2].reduce((all, k) => (bits & (1 << k) ? all | (LEFT_OUT & (0xff << (8 * k))) : all), 0),
);
/** Rise of a table, against a table that changes nothing, from which what is left out is added. */
const RISES = 0.5;

/** One table of several that follow each other. */
export class ColourTable {
  /** Colours of the cells, 0 where one was not asked for yet; in the highest byte to which colours what is left out is added. */
  private readonly cells = new Uint32Array(CELLS);
  private readonly tables: readonly [Float32Array, number][];
  private readonly low = new Float64Array(3);
  private readonly high = new Float64Array(3);

  constructor(through: readonly Lut[]) {
    this.tables = through.map((lut) => [pointsOf(lut), lut.size]);
  }

  /** Look all points of a picture up: red in the lowest byte, as a canvas gives them. */
  apply(points: Uint32Array): void {
    const { cells } = this;
    for (let n = 0; n < points.length; n++) {
      const point = points[n] as number;
      const cell = ((point >> 2) & 0x3f) | ((point >> 4) & 0xfc0) | ((point >> 6) & 0x3f000);
      let colour = cells[cell] as number;
      if (!colour) colour = this.fill(cell);
      // No colour overflows into its neighbour: a cell to which something is added is at most 252 there.
      points[n] = ((colour & 0xffffff) + (point & (ADDED[colour >>> 24] as number))) | (point & 0xff000000);
    }
  }

  private fill(cell: number): number {
    const { low, high } = this;
    this.looked(cell, 0, low);
    this.looked(cell, 3, high);
    let colour = KNOWN << 24;
    for (let k = 0; k < 3; k++) {
      const [from, to] = [255 * (low[k] as number), 255 * (high[k] as number)];
      const rises = to - from > 3 * RISES;
      const value = rises ? Math.min(252, Math.round((from + to - 3) / 2)) : Math.round((from + to) / 2);
      if (rises) colour |= 1 << (24 + k);
      colour |= Math.min(255, Math.max(0, value)) << (8 * k);
    }
    this.cells[cell] = colour;
    return colour >>> 0;
  }

  /** The colour of a cell, so many values above its lowest corner, after all tables; overwritten by the next. */
  private looked(cell: number, above: number, out: Float64Array): void {
    out[0] = (((cell & 63) << 2) + above) / 255;
    out[1] = ((((cell >> 6) & 63) << 2) + above) / 255;
    out[2] = ((((cell >> 12) & 63) << 2) + above) / 255;
    for (const [points, size] of this.tables) through(points, size, out);
  }
}

/** Look a colour up in a table, tetrahedral in between, as the film and the graphics processor do: in place. */
function through(points: Float32Array, size: number, colour: Float64Array): void {
  const last = size - 1;
  const r = last * Math.min(1, Math.max(0, colour[0] as number));
  const g = last * Math.min(1, Math.max(0, colour[1] as number));
  const b = last * Math.min(1, Math.max(0, colour[2] as number));
  const [i, j, k] = [
    Math.min(last - 1, Math.floor(r)),
    Math.min(last - 1, Math.floor(g)),
    Math.min(last - 1, Math.floor(b)),
  ];
  const [x, y, z] = [r - i, g - j, b - k];
  const [right, up, in_] = [4, 4 * size, 4 * size * size];
  const corner = right * i + up * j + in_ * k;
  // The largest share is walked first; the three shares in falling order, and the two corners between the ends.
  const most = Math.max(x, y, z);
  const least = Math.min(x, y, z);
  const middle = x + y + z - most - least;
  const first = most === x ? right : most === y ? up : in_;
  const left = least === z && first !== in_ ? in_ : least === y && first !== up ? up : first === right ? in_ : right;
  const one = corner + first;
  const end = corner + right + up + in_;
  const two = end - left;
  for (let c = 0; c < 3; c++)
    colour[c] =
      (1 - most) * (points[corner + c] as number) +
      (most - middle) * (points[one + c] as number) +
      (middle - least) * (points[two + c] as number) +
      least * (points[end + c] as number);
}

const floats = new WeakMap<Lut, Float32Array>();

/** Points of a table as numbers. */
function pointsOf(lut: Lut): Float32Array {
  let known = floats.get(lut);
  if (!known) {
    known = new Float32Array(lut.points.length);
    for (let n = 0; n < known.length; n++) known[n] = fromHalf(lut.points[n] as number);
    floats.set(lut, known);
  }
  return known;
}

/** Value of the lowest bit of a half float, by its exponent. */
const POWERS = Float64Array.from({ length: 32 }, (_, exponent) => 2 ** (exponent - 25));

/** A half float (IEEE 754 binary16) from its bits. */
export function fromHalf(bits: number): number {
  const exponent = (bits >> 10) & 31;
  const share = bits & 1023;
  const size = exponent ? (POWERS[exponent] as number) * (1024 + share) : (POWERS[1] as number) * share;
  return bits & 0x8000 ? -size : size;
}

const tables = new Map<string, ColourTable>();

/** The table of the colour steps of a chain; null where there are none. */
function tableOf(acts: readonly Act[]): ColourTable | null {
  const through = acts.flatMap(({ step, values }) => (OF_COLOUR.has(step) && luts.get(step, values)) || []);
  if (!through.length) return null;
  const key = through.map(numberOf).join(" ");
  const table = tables.get(key) ?? new ColourTable(through);
  tables.delete(key);
  tables.set(key, table);
  for (const old of [...tables.keys()].slice(0, Math.max(0, tables.size - KEPT))) tables.delete(old);
  return table;
}

/** True where a chain changes colours by themselves. */
export const hasColours = (acts: readonly Act[]): boolean => acts.some(({ step }) => OF_COLOUR.has(step));

type Sheet = OffscreenCanvasRenderingContext2D;
const sheets = new Map<string, Sheet[]>();

/** A sheet of a size whose points are read; the n-th in use at once. */
function sheetOf(width: number, height: number, nth: number): Sheet {
  const key = `${width} ${height}`;
  let known = sheets.get(key);
  if (!known) {
    known = [];
    sheets.set(key, known);
  }
  const made =
    known[nth] ?? (new OffscreenCanvas(width, height).getContext("2d", { willReadFrequently: true }) as Sheet);
  known[nth] = made;
  return made;
}

/** A picture with a chain's steps of colour done, on a sheet that the n-th part may use; null where there are none. */
export function coloured(
  acts: readonly Act[],
  [width, height]: readonly [number, number],
  nth: number,
  draw: (sheet: Sheet) => void,
): OffscreenCanvas | null {
  const table = tableOf(acts);
  if (!table) return null;
  const sheet = sheetOf(width, height, nth);
  sheet.clearRect(0, 0, width, height);
  draw(sheet);
  const picture = sheet.getImageData(0, 0, width, height);
  table.apply(new Uint32Array(picture.data.buffer));
  sheet.putImageData(picture, 0, 0);
  return sheet.canvas;
}

/** Steps of a chain that do more than change colours. */
export const withoutColours = (acts: readonly Act[]): readonly Act[] => acts.filter(({ step }) => !OF_COLOUR.has(step));
