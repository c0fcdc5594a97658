/** What is done to a picture's points: blur, sharpening, glow and grain; the page's side of the film's `effects.py`. */

export type Sheet = OffscreenCanvas;
type Paper = OffscreenCanvasRenderingContext2D;

/** Standard deviations, in heights of the picture: of the blur that sharpening undoes, and of a glow. */
const FINE = 1 / 540;
const WIDE = 1 / 40;
/** Lines of the picture that a point of grain is high: one in each so many, at least one. */
const GRAIN = 540;
const TILE = 256;

export function sheet(width: number, height: number): [Sheet, Paper] {
  const made = new OffscreenCanvas(width, height);
  return [made, made.getContext("2d") as Paper];
}

/** A picture blurred by a standard deviation in its heights; its edges go on outside. */
export function blurred(picture: Sheet, amount: number): Sheet {
  const { width, height } = picture;
  const deviation = amount * height;
  const m = Math.ceil(3 * deviation) + 1;
  const [large, wide] = sheet(width + 2 * m, height + 2 * m);
  for (const [x, w, toX, toW] of [
    [0, 1, 0, m],
    [0, width, m, width],
    [width - 1, 1, m + width, m],
  ] as const)
    for (const [y, h, toY, toH] of [
      [0, 1, 0, m],
      [0, height, m, height],
      [height - 1, 1, m + height, m],
    ] as const)
      wide.drawImage(picture, x, y, w, h, toX, toY, toW, toH);
  const [out, paper] = sheet(width, height);
  paper.filter = `blur(${deviation}px)`;
  paper.drawImage(large, -m, -m);
  return out;
}

/** A picture with more of what a slight blur takes away. */
export function sharpened(picture: Sheet, amount: number): Sheet {
  const { width, height } = picture;
  const values = (s: Sheet) => (s.getContext("2d") as Paper).getImageData(0, 0, width, height);
  const seen = values(picture);
  const soft = values(blurred(picture, FINE)).data;
  const points = seen.data;
  for (let k = 0; k < points.length; k++) {
    // Whole values, 0 to 255: the array itself clips and rounds. How much covers stays.
    if ((k & 3) !== 3) points[k] = (points[k] as number) + amount * ((points[k] as number) - (soft[k] as number));
  }
  const [out, paper] = sheet(width, height);
  paper.putImageData(seen, 0, 0);
  return out;
}

/** A picture over which its own lights (its values multiplied by themselves), blurred, are screened. */
export function glowing(picture: Sheet, amount: number): Sheet {
  const { width, height } = picture;
  const [lights, dark] = sheet(width, height);
  dark.drawImage(picture, 0, 0);
  dark.globalCompositeOperation = "multiply";
  dark.drawImage(picture, 0, 0);
  const paper = picture.getContext("2d") as Paper;
  paper.save();
  paper.globalCompositeOperation = "screen";
  paper.globalAlpha = Math.min(1, amount);
  paper.drawImage(blurred(lights, WIDE), 0, 0);
  paper.restore();
  return picture;
}

let tile: Int16Array | undefined;

/** The tile of grain: values from -255 (dark) to 255, most near 0 (Marsaglia, xorshift, 2003). */
export function pattern(): Int16Array {
  if (tile) return tile;
  tile = new Int16Array(TILE * TILE);
  let state = 0x9e3779b9;
  for (let k = 0; k < tile.length; k++) {
    let two = 0;
    for (let n = 0; n < 2; n++) {
      state = (state ^ (state << 13)) >>> 0;
      state = (state ^ (state >>> 17)) >>> 0;
      state = (state ^ (state << 5)) >>> 0;
      two += state >>> 24;
    }
    tile[k] = two - 255;
  }
  return tile;
}

/** Where in the tile a pattern of grain begins: across and down. */
export function beginsAt(number: number): [number, number] {
  const mixed = Math.imul(number, 2654435761) >>> 0;
  return [(mixed >>> 24) & 0xfe, (mixed >>> 16) & 0xfe];
}

let grains: { amount: number; tile: Sheet } | undefined;

function grainTile(amount: number): Sheet {
  if (grains?.amount === amount) return grains.tile;
  const [made, paper] = sheet(TILE, TILE);
  const points = new ImageData(TILE, TILE);
  pattern().forEach((value, k) => {
    points.data.set(value > 0 ? [255, 255, 255] : [0, 0, 0], 4 * k);
    points.data[4 * k + 3] = Math.round((Math.abs(value) * amount) / 2);
  });
  paper.putImageData(points, 0, 0);
  grains = { amount, tile: made };
  return made;
}

/** Lay grain over what is drawn on a sheet: each point moved towards white or black. */
export function grain(paper: Paper, width: number, height: number, amount: number, number: number): void {
  const cell = Math.max(1, Math.round(height / GRAIN));
  const [x, y] = beginsAt(number);
  paper.save();
  paper.globalCompositeOperation = "source-atop";
  paper.imageSmoothingEnabled = false;
  const laid = paper.createPattern(grainTile(amount), "repeat") as CanvasPattern;
  laid.setTransform(new DOMMatrix([cell, 0, 0, cell, -x * cell, -y * cell]));
  paper.fillStyle = laid;
  paper.fillRect(0, 0, width, height);
  paper.restore();
}
