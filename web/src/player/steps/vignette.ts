import type { PageStep } from "./step";

const SHADER = `
uniform float amount;
vec4 colour(vec2 at) {
  vec4 c = texture(picture, at);
  float away = length((at - 0.5) * size) / (length(size) / 2.0);
  return vec4(c.rgb * (1.0 - amount * clamp((away - 0.5) * 2.0, 0.0, 1.0)), c.a);
}`;

export const vignette: PageStep = {
  act: (painter, picture, v) => painter.pass(SHADER, picture, { amount: Math.min(1, v.amount as number) }),
};
