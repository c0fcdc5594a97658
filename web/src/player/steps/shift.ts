import type { PageStep } from "./step";

const SHADER = `
uniform vec2 shift;
vec4 colour(vec2 at) {
  vec2 from = at * size - shift;
  bool inside = from.x > 0.0 && from.y > 0.0 && from.x < size.x && from.y < size.y;
  return inside ? texture(picture, from / size) : vec4(0.0);
}`;

/** A shift in shares of a side as points of it: whole pairs, rounded upwards at halves, as the film's. */
const points = (share: number, length: number) => 2 * Math.floor((share * length) / 2 + 0.5);

export const shift: PageStep = {
  covers: (v) => v.x === 0 && v.y === 0,
  act: (painter, picture, v) =>
    painter.pass(SHADER, picture, {
      shift: [points(v.x as number, picture.width), points(v.y as number, picture.height)],
    }),
};
