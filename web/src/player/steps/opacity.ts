import type { PageStep } from "./step";

const SHADER = `
uniform float amount;
vec4 colour(vec2 at) { return texture(picture, at) * amount; }`;

export const opacity: PageStep = {
  joined: (inner, outer) => ({ amount: (inner.amount as number) * (outer.amount as number) }),
  covers: (v) => (v.amount as number) >= 1,
  act: (painter, picture, v) => painter.pass(SHADER, picture, { amount: Math.min(1, Math.max(0, v.amount as number)) }),
};
