import type { PageStep } from "./step";

const SHADER = `
uniform float share; uniform float goal;
vec4 colour(vec2 at) {
  vec4 c = texture(picture, at);
  return vec4(mix(c.rgb, vec3(goal * c.a), share), c.a);
}`;

export const lightness: PageStep = {
  act: (painter, picture, v) => {
    const amount = Math.min(2, Math.max(0, v.amount as number));
    return painter.pass(SHADER, picture, { share: Math.abs(1 - amount), goal: amount > 1 ? 1 : 0 });
  },
};
