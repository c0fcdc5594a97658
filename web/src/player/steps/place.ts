import type { PageStep, Values } from "./step";

/** Bilinear, and nothing outside the picture; where it fills the frame the edge goes on. */
const SHADER = `
uniform vec2 shift; uniform float scale; uniform float turn; uniform float flip; uniform float edge;
vec4 colour(vec2 at) {
  vec2 d = at * size - (0.5 + shift) * size;
  float c = cos(turn), s = sin(turn);
  d = vec2(flip * (c * d.x + s * d.y), -s * d.x + c * d.y) / scale;
  vec2 from = d + 0.5 * size;
  vec2 near = clamp(from + 0.5, 0.0, 1.0) * clamp(size - from + 0.5, 0.0, 1.0);
  return texture(picture, from / size) * mix(near.x * near.y, 1.0, edge);
}`;

/** True where a picture of the frame's size, so placed, leaves no part of the frame free. */
export function fills(v: Values): boolean {
  const room = ((v.scale as number) - 1) / 2 + 1e-9;
  return (v.turn as number) % 360 === 0 && Math.abs(v.x as number) <= room && Math.abs(v.y as number) <= room;
}

/** Composition of two similarities of the plane; a reflection turns shifts across and turns about. */
function joined(inner: Values, outer: Values, aspect: number): Values {
  const [i, o] = [inner as Record<string, number>, outer as Record<string, number>] as [
    Record<"scale" | "x" | "y" | "turn" | "mirror", number>,
    Record<"scale" | "x" | "y" | "turn" | "mirror", number>,
  ];
  const flip = o.mirror ? -1 : 1;
  const [cos, sin] = [Math.cos((o.turn * Math.PI) / 180), Math.sin((o.turn * Math.PI) / 180)];
  const [across, down] = [flip * i.x * aspect, i.y];
  return {
    scale: i.scale * o.scale,
    x: o.x + (o.scale * (cos * across - sin * down)) / aspect,
    y: o.y + o.scale * (sin * across + cos * down),
    turn: o.turn + flip * i.turn,
    mirror: Number(!i.mirror !== !o.mirror),
  };
}

export const place: PageStep = {
  joined,
  covers: fills,
  act: (painter, picture, v) =>
    painter.pass(SHADER, picture, {
      shift: [v.x as number, v.y as number],
      scale: Math.max(v.scale as number, 1e-4),
      turn: ((v.turn as number) * Math.PI) / 180,
      flip: v.mirror ? -1 : 1,
      edge: fills(v) ? 1 : 0,
    }),
};
