import type { MediaView } from "../../api/client";
import { within } from "../../api/facts";

/** The framed part of a picture as seen: the point in the frame's middle, and the scale against whole. */
export interface Framing {
  x: number;
  y: number;
  scale: number;
}

/** Width and height of a picture as seen when it lies whole in the film, in shares of the film. */
export function whole(clip: Pick<MediaView, "width" | "height" | "fit">, film: [number, number]): [number, number] {
  const [w, h] = clip.fit.turn % 180 ? [clip.height, clip.width] : [clip.width, clip.height];
  const scale = Math.min(film[0] / w, film[1] / h);
  return [(w * scale) / film[0], (h * scale) / film[1]];
}

const SCALES = within("scale");
const inside = (value: number, low: number, high: number) => Math.min(high, Math.max(low, value));

/** The middle that a framing shows: no edge comes into the frame where the picture is larger than it. */
export function shown(framing: Framing, shares: [number, number]): Framing {
  const middle = (at: number, share: number) => {
    const half = 0.5 / (share * framing.scale);
    return half >= 0.5 ? 0.5 : inside(at, half, 1 - half);
  };
  return { ...framing, x: middle(framing.x, shares[0]), y: middle(framing.y, shares[1]) };
}

/** The rectangle a framing takes of the film when the picture lies whole in it: left, top, width and height, in shares. */
export function rectangle(framing: Framing, shares: [number, number]): [number, number, number, number] {
  const { x, y, scale } = shown(framing, shares);
  const [w, h] = [1 / scale, 1 / scale];
  return [0.5 + (x - 0.5) * shares[0] - w / 2, 0.5 + (y - 0.5) * shares[1] - h / 2, w, h];
}

/** A framing moved by shares of the film. */
export function moved(framing: Framing, by: [number, number], shares: [number, number]): Framing {
  const at = shown(framing, shares);
  return shown({ ...at, x: at.x + by[0] / shares[0], y: at.y + by[1] / shares[1] }, shares);
}

/** A framing whose rectangle is so many shares of the film wide. */
export function resized(framing: Framing, width: number, shares: [number, number]): Framing {
  const scale = inside(1 / Math.max(0.01, width), SCALES.min, SCALES.max);
  return shown({ ...framing, scale: Math.round(1000 * scale) / 1000 }, shares);
}

/** The value of `x` or `y` that puts a picture of so many shares of the film with its centre there. */
export function puts(centre: number, size: number): number {
  const at = size < 1 ? (centre - size / 2) / (1 - size) : 0.5 - (centre - 0.5) / size;
  return Number.isFinite(at) ? Math.round(1e4 * inside(at, 0, 1)) / 1e4 : 0.5;
}

/** The scale at which a picture just fills the film. */
export const filling = (shares: [number, number]): number => Math.round(1000 / Math.min(...shares)) / 1000;
