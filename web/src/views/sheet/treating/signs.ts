import type { Kind } from "./kinds";

/** What is drawn of a treatment, on a field of 11 by 11: lines, and where it has any, areas. */
interface Drawn {
  line: string;
  area?: string;
}

const FRAME = "M0.5 1.5 H10.5 V9.5 H0.5 Z";

/**
 * A sign for each treatment. Those of time draw how far in the clip one is while the film goes on to the right; those of
 * light how bright it is, or where; those of the picture what becomes of its frame.
 */
export const SIGNS: Readonly<Record<Kind, Drawn>> = {
  "one by one": { line: "M0.5 9.5 H10.5", area: "M0.5 3 H2.5 V7 H0.5 Z M4 3 H6 V7 H4 Z M7.5 6 H9.5 V7 H7.5 Z" },
  "sung word": { line: "M0.5 4 H3 V8 H0.5 Z M8 4 H10.5 V8 H8 Z", area: "M4 2 H7 V8.5 H4 Z" },
  "come in": { line: `${FRAME} M5.5 9 V4.5 M3.5 6.5 L5.5 4.5 L7.5 6.5` },
  table: { line: "M1.5 1.5 H9.5 V9.5 H1.5 Z M1.5 5.5 H9.5 M5.5 1.5 V9.5", area: "M1.5 1.5 H5.5 V5.5 H1.5 Z" },
  grade: { line: "M0.5 10 C4 10 4 1 10.5 1 M0.5 5.5 H10.5" },
  speed: { line: "M1 10 L5 1 M5 10 L9 1" },
  ramp: { line: "M1 10 C6 10 4 1 10 1" },
  reverse: { line: "M1 1 L10 10 M10 6.5 V10 H6.5" },
  "back and forth": { line: "M0.5 9 L3 2 L5.5 9 L8 2 L10.5 9" },
  freeze: { line: "M0.5 10 L3.5 5.5 H7.5 L10.5 1" },
  stutter: { line: "M0.5 9 L3 4 V9 L5.5 4 V9 L8 4 V9 L10.5 4" },
  rewind: { line: "M0.5 8 L3.5 2 L7 9 L10.5 2" },
  "jump cuts": { line: "M0.5 10 L3 8 M4 6 L6.5 4 M7.5 2.8 L10 0.8" },
  moment: { line: "M1 10 L10 1", area: "M5.5 3.3 A2.2 2.2 0 1 1 5.49 3.3 Z" },
  fit: { line: "M1 10 L10 1 M1 5.5 V10 H5.5 M5.5 1 H10 V5.5" },
  blend: { line: "M0.5 8 L6.5 1 M2.5 9 L8.5 2 M4.5 10 L10.5 3" },
  fade: { line: "M0.5 9.5 H10.5 V1.5 Z", area: "M0.5 9.5 L10.5 1.5 V9.5 Z" },
  dip: { line: "M0.5 1.5 L5.5 9.5 L10.5 1.5", area: "M3 1.5 L5.5 5.5 L8 1.5 Z" },
  flash: {
    line: "M5.5 0.5 V3 M5.5 8 V10.5 M0.5 5.5 H3 M8 5.5 H10.5 M2 2 L3.6 3.6 M7.4 7.4 L9 9 M9 2 L7.4 3.6 M3.6 7.4 L2 9",
  },
  "flicker on": { line: FRAME, area: "M0.5 1.5 H2 V9.5 H0.5 Z M3.5 3 H5 V8 H3.5 Z M6.5 1.5 H10.5 V9.5 H6.5 Z" },
  flicker: { line: FRAME, area: "M0.5 1.5 H3 V9.5 H0.5 Z M5 1.5 H6 V9.5 H5 Z M8.5 1.5 H9 V9.5 H8.5 Z" },
  strobe: { line: FRAME, area: "M2.5 1.5 H4.5 V9.5 H2.5 Z M6.5 1.5 H8.5 V9.5 H6.5 Z" },
  glow: { line: "M5.5 1 A4.5 4.5 0 1 1 5.49 1 Z", area: "M5.5 3.5 A2 2 0 1 1 5.49 3.5 Z" },
  vignette: {
    line: FRAME,
    area: "M0.5 1.5 H4 A6 6 0 0 0 0.5 4 Z M10.5 9.5 H7 A6 6 0 0 0 10.5 7 Z M10.5 1.5 H7 A6 6 0 0 1 10.5 4 Z M0.5 9.5 H4 A6 6 0 0 1 0.5 7 Z",
  },
  grain: { line: "M2 2 V3 M5 1.5 V2.5 M8.5 3 V4 M3.5 5 V6 M6.5 5.5 V6.5 M9.5 7 V8 M2 8 V9 M5.5 8.5 V9.5" },
  drift: { line: "M0.5 4 H6.5 V9.5 H0.5 Z M4 4 V1.5 H10.5 V7 H6.5" },
  "punch in": { line: `${FRAME} M3 3.8 H8 V7.2 H3 Z` },
  pulse: { line: "M0.5 7 H2.5 L4 2 L6 9.5 L7.5 7 H10.5" },
  step: { line: "M0.5 9.5 H3.5 V6.5 H6.5 V3.5 H9.5 V1" },
  shake: { line: "M1 3 L3 1 L5 3 L7 1 L9 3 V8.5 L7 10 L5 8 L3 10 L1 8 Z" },
  turn: { line: "M4.5 0.5 L10.5 4.5 L6.5 10.5 L0.5 6.5 Z" },
  mirror: { line: "M5.5 0.5 V10.5 M1 2.5 L4 5.5 L1 8.5 Z", area: "M10 2.5 L7 5.5 L10 8.5 Z" },
  bars: { line: FRAME, area: "M0.5 1.5 H10.5 V3.3 H0.5 Z M0.5 7.7 H10.5 V9.5 H0.5 Z" },
  slide: { line: "M0.5 2 H5 V9 H0.5 Z M6.5 5.5 H10.5 M8.5 3.5 L10.5 5.5 L8.5 7.5" },
  whip: { line: "M0.5 3 H6 M0.5 5.5 H10.5 M0.5 8 H6 M8 3 L10.5 5.5 L8 8" },
  "zoom through": { line: `${FRAME} M2.5 3.2 H8.5 V7.8 H2.5 Z M4.3 4.6 H6.7 V6.4 H4.3 Z` },
  blur: { line: "M5.5 0.8 A4.7 4.7 0 1 1 5.49 0.8 Z M5.5 2.9 A2.6 2.6 0 1 1 5.49 2.9 Z" },
  sharpen: { line: "M5.5 1 L10 9.5 H1 Z" },
  dissolve: { line: "M0.5 2 C5 2 6 9 10.5 9 M0.5 9 C5 9 6 2 10.5 2" },
};
