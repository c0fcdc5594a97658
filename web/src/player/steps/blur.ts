import type { Painter, Texture } from "../painter";
import type { PageStep } from "./step";

/** A blur of more points than this is made of a picture reduced until it is of about as many. */
const WIDE = 4;

const GAUSS = `
uniform vec2 along; uniform float deviation; uniform int reach;
vec4 colour(vec2 at) {
  vec4 sum = vec4(0.0); float all = 0.0;
  for (int k = -reach; k <= reach; k++) {
    float w = exp(-float(k * k) / (2.0 * deviation * deviation));
    sum += w * texture(picture, at + float(k) * along);
    all += w;
  }
  return sum / all;
}`;

/** Mean of the points that a point of a smaller picture stands for. */
const REDUCE = `
uniform int times;
vec4 colour(vec2 at) {
  vec4 sum = vec4(0.0);
  vec2 point = 1.0 / vec2(textureSize(picture, 0));
  for (int y = 0; y < times; y++) for (int x = 0; x < times; x++)
    sum += texture(picture, at + (vec2(x, y) - 0.5 * float(times - 1)) * point);
  return sum / float(times * times);
}`;

/** A picture as many times smaller along each side. */
export function reduced(painter: Painter, picture: Texture, times: number): Texture {
  if (times < 2) return picture;
  const size: [number, number] = [
    Math.max(1, Math.round(picture.width / times)),
    Math.max(1, Math.round(picture.height / times)),
  ];
  return painter.pass(REDUCE, picture, { times: ["int", times] }, size);
}

/** A picture blurred by a standard deviation in points; its edges go on outside. */
export function soft(painter: Painter, picture: Texture, deviation: number): Texture {
  if (deviation <= 0) return picture;
  const small = reduced(painter, picture, Math.min(16, Math.floor(deviation / WIDE)));
  const points = (deviation * small.height) / picture.height;
  const gauss = (from: Texture, along: [number, number]) =>
    painter.pass(GAUSS, from, { along, deviation: points, reach: ["int", Math.ceil(3 * points)] }, [
      small.width,
      small.height,
    ]);
  return gauss(gauss(small, [1 / small.width, 0]), [0, 1 / small.height]);
}

export const blur: PageStep = {
  /** Variances of Gaussians add up. */
  joined: (inner, outer) => ({ amount: Math.hypot(inner.amount as number, outer.amount as number) }),
  act: (painter, picture, v) => painter.whole(soft(painter, picture, (v.amount as number) * picture.height)),
};
