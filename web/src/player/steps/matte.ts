import type { Painter, Texture } from "../painter";
import type { PageStep } from "./step";

const SHADER = `
uniform sampler2D alpha;
vec4 colour(vec2 at) {
  float a = texture(alpha, at).r;
  return vec4(min(texture(picture, at).rgb, vec3(a)), a);
}`;

/** A picture over black, cut out by its alpha as grey. */
export function cutOut(painter: Painter, picture: Texture, alpha: Texture): Texture {
  return painter.pass(SHADER, picture, { alpha });
}

/** The compositor has cut the picture out already, since a proxy carries its alpha beside it. */
export const matte: PageStep = {
  covers: (v) => !v.on,
  act: (_painter, picture) => picture,
};
