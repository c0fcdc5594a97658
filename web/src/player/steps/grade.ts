import { luts } from "../luts";
import type { PageStep } from "./step";

/** Each colour looked up in the grade's table, tetrahedral in between, as the film does. */
const SHADER = `
uniform highp sampler3D lut; uniform float points;
vec3 there(ivec3 i) { return texelFetch(lut, i, 0).rgb; }
vec3 graded(vec3 c) {
  vec3 p = clamp(c, 0.0, 1.0) * (points - 1.0);
  vec3 low = min(floor(p), points - 2.0);
  vec3 f = p - low;
  ivec3 i = ivec3(low);
  vec3 a = there(i), z = there(i + 1);
  if (f.r >= f.g) {
    if (f.g >= f.b) return (1.0 - f.r) * a + (f.r - f.g) * there(i + ivec3(1, 0, 0)) + (f.g - f.b) * there(i + ivec3(1, 1, 0)) + f.b * z;
    if (f.r >= f.b) return (1.0 - f.r) * a + (f.r - f.b) * there(i + ivec3(1, 0, 0)) + (f.b - f.g) * there(i + ivec3(1, 0, 1)) + f.g * z;
    return (1.0 - f.b) * a + (f.b - f.r) * there(i + ivec3(0, 0, 1)) + (f.r - f.g) * there(i + ivec3(1, 0, 1)) + f.g * z;
  }
  if (f.b >= f.g) return (1.0 - f.b) * a + (f.b - f.g) * there(i + ivec3(0, 0, 1)) + (f.g - f.r) * there(i + ivec3(0, 1, 1)) + f.r * z;
  if (f.b >= f.r) return (1.0 - f.g) * a + (f.g - f.b) * there(i + ivec3(0, 1, 0)) + (f.b - f.r) * there(i + ivec3(0, 1, 1)) + f.r * z;
  return (1.0 - f.g) * a + (f.g - f.r) * there(i + ivec3(0, 1, 0)) + (f.r - f.b) * there(i + ivec3(1, 1, 0)) + f.b * z;
}
vec4 colour(vec2 at) {
  vec4 c = texture(picture, at);
  return c.a > 0.0 ? vec4(graded(c.rgb / c.a) * c.a, c.a) : c;
}`;

/** A step that looks every colour up in its table; the picture as it is while that cannot be had. */
export const lookedUp = (step: string): PageStep => ({
  act: (painter, picture, values) => {
    const lut = luts.get(step, values);
    if (!lut) return picture;
    return painter.pass(SHADER, picture, { lut: painter.table(lut, lut.size, lut.points), points: lut.size });
  },
});

export const grade = lookedUp("grade");
