import { reduced, soft } from "./blur";
import type { PageStep } from "./step";

/** Standard deviation of the blur, in heights of the picture. */
const WIDE = 1 / 40;

const LIGHTS = `
vec4 colour(vec2 at) { vec4 c = texture(picture, at); return c * c; }`;

const SCREEN = `
uniform sampler2D other; uniform float amount;
vec4 colour(vec2 at) {
  vec4 c = texture(picture, at);
  return vec4(c.rgb + amount * texture(other, at).rgb * (1.0 - c.rgb), c.a);
}`;

export const glow: PageStep = {
  act: (painter, picture, v) => {
    const small = reduced(painter, picture, Math.max(1, Math.floor(picture.height / 270)));
    const lights = painter.pass(LIGHTS, small, {}, [small.width, small.height]);
    const other = soft(painter, lights, WIDE * lights.height);
    return painter.pass(SCREEN, picture, { other, amount: Math.min(1, v.amount as number) });
  },
};
