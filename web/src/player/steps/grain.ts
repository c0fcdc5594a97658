import type { Painter, Texture } from "../painter";
import type { PageStep } from "./step";

/** Lines of the picture that a point of grain is high: one in each so many, at least one. */
const GRAIN = 540;
const TILE = 256;

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

/** Offset into the tile at which a pattern of grain begins: across and down. */
export function beginsAt(number: number): [number, number] {
  const mixed = Math.imul(number, 2654435761) >>> 0;
  return [(mixed >>> 24) & 0xfe, (mixed >>> 16) & 0xfe];
}

/** The tile as a texture: how far a point moves in red, whether to white in green. */
function tileOf(painter: Painter): Texture {
  return painter.kept("grain", () => {
    const points = new Uint8Array(4 * TILE * TILE);
    pattern().forEach((value, k) => {
      points.set([Math.abs(value), value > 0 ? 255 : 0, 0, 255], 4 * k);
    });
    return painter.ofPoints(points, TILE, TILE);
  });
}

const SHADER = `
uniform sampler2D other; uniform float amount; uniform vec2 begins; uniform float cell;
vec4 colour(vec2 at) {
  vec4 c = texture(picture, at);
  ivec2 p = ivec2(mod(floor(at * size / cell) + begins, ${TILE}.0));
  vec4 g = texelFetch(other, p, 0);
  float move = floor(g.r * 255.0 * amount / 2.0 + 0.5) / 255.0;
  return vec4(mix(c.rgb, vec3(g.g * c.a), move), c.a);
}`;

export const grain: PageStep = {
  act: (painter, picture, v) =>
    painter.pass(SHADER, picture, {
      other: tileOf(painter),
      amount: v.amount as number,
      begins: beginsAt(Math.round(v.number as number)),
      cell: Math.max(1, Math.round(picture.height / GRAIN)),
    }),
};
