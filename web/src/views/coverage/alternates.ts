/** Words about alternates. Pure. */

import type { AlternateView, PhraseView, SectionView, SongView } from "../../api/client";
import { barBeat } from "../../parts/format";

export interface Range {
  start_s: number;
  end_s: number;
  name: string;
}

/** Ranges that can be chosen for: the section's phrases, named by their line, or the whole of it. */
export function rangesOf(section: SectionView, phrases: readonly PhraseView[]): Range[] {
  const inside = phrases.filter((p) => p.start_s >= section.start_s - 0.01 && p.end_s <= section.end_s + 0.01);
  if (!inside.length) return [{ start_s: section.start_s, end_s: section.end_s, name: `all of ${section.name}` }];
  return inside.map((p) => ({
    start_s: p.start_s,
    end_s: p.end_s,
    name: p.lyric || `bars ${p.first_bar} to ${p.first_bar + p.bars - 1}`,
  }));
}

/** Share of a range in which a pass feeds its angle: "all", "some" or "". */
export function feedsIn(alternate: AlternateView, range: Range, rate: number): "all" | "some" | "" {
  const [first, end] = [range.start_s * rate, range.end_s * rate];
  const inside = alternate.feeds.reduce(
    (sum, [a = 0, b = 0]) => sum + Math.max(0, Math.min(b, end) - Math.max(a, first)),
    0,
  );
  // A frame more or less at the borders is how seconds fall on frames.
  return inside >= end - first - 2 ? "all" : inside > 1 ? "some" : "";
}

/** Facts that help to choose, in words. */
export function factsOf(a: AlternateView, song: SongView): string {
  const out: string[] = [];
  if (a.sharp !== null) out.push(`sharp ${a.sharp.toFixed(2)}`);
  if (a.sharp !== null) out.push(a.shaky_s === null ? "steady" : `shaky at ${barBeat(song, a.shaky_s)}`);
  if (a.light !== null && (a.light < 0.12 || a.light > 0.75)) out.push(a.light < 0.12 ? "dark" : "bright");
  if (a.burnt !== null && a.burnt > 0.01) out.push(`${(100 * a.burnt).toFixed(0)} % burnt out`);
  out.push(a.lips_ms === null ? "placed by hand" : `lips within ${Math.max(1, Math.ceil(a.lips_ms))} ms`);
  if (a.covers < 0.995) out.push(`covers ${Math.floor(100 * a.covers)} %`);
  return out.join(" · ");
}
