import type { SongView } from "../../api/client";
import { type Kept, toWorking } from "../../parts/format";
import type { Click } from "../../player/plan";

export type Reading = SongView["readings"][number];

/** Where the clicks of another way to count the song would fall, in song time. */
export function clicksOf(
  song: Pick<SongView, "beats" | "bars" | "bpm" | "seconds">,
  key: string,
  reading?: Reading,
): Click[] {
  const { beats, bars } = song;
  const downs = new Set(bars);
  const between = beats.slice(0, -1).map((at, i) => (at + (beats[i + 1] as number)) / 2);
  const as = (at: number, i: number, shift = 0): Click => ({ at, down: downs.has(i - shift) });
  switch (key) {
    case "halve": {
      // As the grid does: every other beat from the first of a bar on.
      const first = (bars[0] ?? 0) % 2;
      return beats.flatMap((at, i) => (i % 2 === first ? [as(at, i)] : []));
    }
    case "double":
      return [...beats.map((at, i) => as(at, i)), ...between.map((at) => ({ at, down: false }))].sort(
        (a, b) => a.at - b.at,
      );
    case "half":
      return between.map((at, i) => as(at, i));
    case "other one":
      return beats.map((at, i) => as(at, i, Math.round(reading?.shift_beats ?? 0)));
    default: {
      const period = 60 / (reading?.tempo_bpm ?? song.bpm);
      const start = (beats[0] ?? 0) % period;
      return Array.from({ length: Math.floor((song.seconds - start) / period) }, (_, i) => ({
        at: start + i * period,
        down: i % 4 === 0,
      }));
    }
  }
}

/** Clicks in working time: those of what is kept of the song; all of them where nothing is left out. */
export function keptClicks(clicks: readonly Click[], kept: Kept | null): Click[] {
  if (!kept) return [...clicks];
  return clicks
    .filter(({ at }) => kept.some(([a = 0, b = 0]) => at >= a - 1e-3 && at < b))
    .map(({ at, down }) => ({ at: toWorking(kept, at), down }));
}
