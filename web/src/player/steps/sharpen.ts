import { soft } from "./blur";
import type { PageStep } from "./step";

/** Standard deviation of the blur, in heights of the picture. */
const FINE = 1 / 540;

const SHADER = `
uniform sampler2D other; uniform float amount;
vec4 colour(vec2 at) {
  vec4 c = texture(picture, at);
  return vec4(clamp(c.rgb + amount * (c.rgb - texture(other, at).rgb), 0.0, 1.0), c.a);
}`;

export const sharpen: PageStep = {
  act: (painter, picture, v) =>
    painter.pass(SHADER, picture, {
      other: soft(painter, picture, FINE * picture.height),
      amount: v.amount as number,
    }),
};
