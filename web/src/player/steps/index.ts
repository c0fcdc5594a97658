/** The kinds of steps in the page. To add one: its module here, and its name in this list. */

import { bars } from "./bars";
import { blur } from "./blur";
import { glow } from "./glow";
import { grade } from "./grade";
import { grain } from "./grain";
import { lightness } from "./lightness";
import { matte } from "./matte";
import { opacity } from "./opacity";
import { place } from "./place";
import { sharpen } from "./sharpen";
import { shift } from "./shift";
import type { PageStep } from "./step";
import { table } from "./table";
import { vignette } from "./vignette";

export const STEPS: Readonly<Record<string, PageStep>> = {
  matte,
  place,
  table,
  grade,
  lightness,
  blur,
  sharpen,
  glow,
  vignette,
  grain,
  bars,
  shift,
  opacity,
};
