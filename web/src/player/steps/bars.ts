import type { PageStep } from "./step";

const SHADER = `
uniform vec2 black;
vec4 colour(vec2 at) {
  vec2 p = at * size;
  bool outside = p.x < black.x || p.x > size.x - black.x || p.y < black.y || p.y > size.y - black.y;
  return outside ? vec4(0.0, 0.0, 0.0, 1.0) : texture(picture, at);
}`;

export const bars: PageStep = {
  act: (painter, picture, v) => {
    const { width, height } = picture;
    const shape = v.shape as number;
    const high = Math.round((height * Math.max(0, 1 - width / height / shape)) / 2);
    const wide = Math.round((width * Math.max(0, 1 - (shape * height) / width)) / 2);
    return painter.pass(SHADER, picture, { black: [wide, high] });
  },
};
