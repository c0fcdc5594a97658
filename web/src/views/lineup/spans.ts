import type { TakeView } from "../../api/client";
import type { Span } from "../../player/frames";

/** The frames of song time at which a take has picture, by its passes. */
export function takeSpans(take: TakeView, rate: number): Span[] {
  return take.passes
    .map((p) => {
      const start = Math.max(0, Math.round(p.song_start_s * rate));
      return {
        start,
        end: Math.round(p.song_end_s * rate),
        media: take.media,
        in_s: p.take_start_s + (start / rate - p.song_start_s) / p.rate,
        speed: 1 / p.rate,
        label: "",
      };
    })
    .sort((a, b) => a.start - b.start);
}
