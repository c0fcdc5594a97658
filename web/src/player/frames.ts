/** The frame rule, as in the core: the source frame on display at the middle of a programme frame. */

export interface Span {
  start: number;
  end: number;
  media: string | null;
  in_s: number;
  speed: number;
  label: string;
}

/** Slack in seconds when a time falls exactly on a presentation time; the same as the core's. */
const ON_TIME = 1e-6;

/** Index of the last frame presented at or before a media time. */
export function frameOnDisplay(times: ArrayLike<number>, at: number): number {
  let low = 0;
  let high = times.length;
  const limit = at + ON_TIME;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((times[middle] as number) <= limit) low = middle + 1;
    else high = middle;
  }
  return Math.max(0, low - 1);
}

/** The programme frame on screen at a song time. */
export function frameAt(seconds: number, rate: number): number {
  return Math.floor(seconds * rate + ON_TIME);
}

/** The span that holds a frame, or undefined; spans are in order and do not overlap. */
export function spanAt(spans: readonly Span[], frame: number): Span | undefined {
  let low = 0;
  let high = spans.length - 1;
  while (low <= high) {
    const middle = (low + high) >> 1;
    const span = spans[middle] as Span;
    if (frame < span.start) high = middle - 1;
    else if (frame >= span.end) low = middle + 1;
    else return span;
  }
  return undefined;
}

/** Media time at the middle of a programme frame inside a span. */
export function mediaTime(span: Span, frame: number, rate: number): number {
  return span.in_s + (span.speed * (frame - span.start + 0.5)) / rate;
}
