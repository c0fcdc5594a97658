/** Interface of a step of a picture's chain in the page; the film's side of each is in `media/steps`. */

import type { Painter, Texture } from "../painter";

/** Parameters of a step in one frame, by name. */
export type Values = Readonly<Record<string, number>>;

/** A step in one frame. */
export interface Act {
  step: string;
  values: Values;
}

export interface PageStep {
  /** Composition of two that follow each other in a frame of an aspect; where it is left out each acts by itself. */
  joined?: (inner: Values, outer: Values, aspect: number) => Values;
  /** True where a picture that hides all beneath it still does after the step; it does where this is left out. */
  covers?: (values: Values) => boolean;
  /** The picture after the step. */
  act: (painter: Painter, picture: Texture, values: Values) => Texture;
}
