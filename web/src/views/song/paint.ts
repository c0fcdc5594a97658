import type { HitKind, SongDetail, SongView } from "../../api/client";
import { HIT_ROWS } from "../../api/facts";
import { type Peaks, peakOf } from "../../parts/peaks";
import { colour } from "../../theme";
import { type View, xOf } from "./view";

type Paper = CanvasRenderingContext2D;
type Hit = NonNullable<SongDetail["hits"][string]>[number];

/** Tops of the lanes under the waveform, the height of a row of hits, and of all. */
export const LANE = { hits: 2, hit: 15, marks: 123, lyrics: 161, voice: 189, loudness: 205, height: 269 } as const;

/** Sensitivity of each kind of hits: those at least as strong as 1 less it count. */
export type Sensitivities = Readonly<Record<string, number>>;

/** Rows of hits: the drums' strokes where there are drums, else the attacks by band; with what no drum marks. */
export function hitRows(detail: SongDetail | undefined): readonly HitKind[] {
  const { strokes, attacks, turns, with_drums } = HIT_ROWS;
  const heard = strokes.reduce((sum, kind) => sum + (detail?.hits[kind]?.length ?? 0), 0);
  return [...(heard >= with_drums ? strokes : attacks), ...turns];
}

/** Hits of a kind that are strong enough to be shown, heard and cut on. */
export function strongHits(
  detail: SongDetail | undefined,
  kind: HitKind,
  sensitivities: Sensitivities,
): readonly Hit[] {
  const least = 1 - (sensitivities[kind] ?? 0);
  return (detail?.hits[kind] ?? []).filter((hit) => hit.strength >= least);
}

export function paintGrid(paper: Paper, w: number, h: number, song: SongView, view: View, moved = 0): void {
  const perBeat = (w * 60) / song.bpm / (view.to - view.from);
  const bars = new Set(song.bars);
  song.beats.forEach((beat, i) => {
    const bar = bars.has(i);
    const at = beat + moved;
    if (at < view.from || at > view.to || (!bar && perBeat < 6)) return;
    paper.fillStyle = moved ? colour.coral : bar ? (perBeat < 3 ? colour.ruleFaint : colour.barLine) : colour.ruleFaint;
    paper.fillRect(Math.round(xOf(view, at, w)), 0, 1, h);
  });
}

/** Peak and RMS from the tables; samples themselves where the zoom goes beyond them. */
export function paintWave(
  paper: Paper,
  w: number,
  h: number,
  peaks: Peaks,
  samples: AudioBuffer | null,
  view: View,
): void {
  const step = (view.to - view.from) / w;
  const middle = h / 2;
  if (samples && step * peaks.perSecond < 1) {
    paintSamples(paper, w, h, samples, view);
    return;
  }
  for (let px = 0; px < w; px++) {
    const [low, high, rms] = peakOf(peaks, view.from + px * step, view.from + (px + 1) * step);
    paper.fillStyle = colour.wave;
    paper.fillRect(px, middle - high * middle, 1, Math.max(1, (high - low) * middle));
    paper.fillStyle = colour.waveInner;
    paper.fillRect(px, middle - rms * middle, 1, Math.max(1, 2 * rms * middle));
  }
}

function paintSamples(paper: Paper, w: number, h: number, samples: AudioBuffer, view: View): void {
  const rate = samples.sampleRate;
  const channels = Array.from({ length: samples.numberOfChannels }, (_, c) => samples.getChannelData(c));
  const value = (i: number) => channels.reduce((sum, c) => sum + (c[i] ?? 0), 0) / channels.length;
  const middle = h / 2;
  const first = Math.max(0, Math.floor(view.from * rate) - 1);
  const last = Math.min(samples.length - 1, Math.ceil(view.to * rate) + 1);
  const perPixel = ((view.to - view.from) * rate) / w;
  paper.fillStyle = colour.wave;
  if (perPixel > 2) {
    for (let px = 0; px < w; px++) {
      const a = Math.floor((view.from + (px * (view.to - view.from)) / w) * rate);
      let [low, high] = [1, -1];
      for (let i = a; i <= a + perPixel; i++) {
        const v = value(i);
        low = Math.min(low, v);
        high = Math.max(high, v);
      }
      paper.fillRect(px, middle - high * middle, 1, Math.max(1, (high - low) * middle));
    }
    return;
  }
  paper.strokeStyle = colour.waveInner;
  paper.lineWidth = 1.4;
  paper.beginPath();
  for (let i = first; i <= last; i++) {
    const [x, y] = [xOf(view, i / rate, w), middle - value(i) * middle];
    if (i === first) paper.moveTo(x, y);
    else paper.lineTo(x, y);
  }
  paper.stroke();
  if (perPixel < 0.15) {
    paper.fillStyle = colour.ink;
    for (let i = first; i <= last; i++)
      paper.fillRect(xOf(view, i / rate, w) - 2, middle - value(i) * middle - 2, 4, 4);
  }
}

export function paintHits(paper: Paper, w: number, detail: SongDetail, shown: Sensitivities, view: View): void {
  const wide = perSecond(view, w) > 40 ? 2 : 1;
  hitRows(detail).forEach((kind, row) => {
    const bottom = LANE.hits + (row + 1) * LANE.hit - 2;
    paper.fillStyle = colour.ruleFaint;
    paper.fillRect(0, bottom, w, 1);
    // Of strokes that share a point, the strongest is drawn: the row stays legible at the whole song.
    const tallest = new Map<number, number>();
    for (const hit of strongHits(detail, kind, shown)) {
      if (hit.song_s < view.from || hit.song_s > view.to) continue;
      const x = Math.round(xOf(view, hit.song_s, w));
      tallest.set(x, Math.max(hit.strength, tallest.get(x) ?? 0));
    }
    paper.fillStyle = colour.ink;
    for (const [x, strength] of tallest) {
      const tall = Math.max(2, Math.round(strength * (LANE.hit - 3)));
      paper.fillRect(x, bottom - tall, wide, tall);
    }
  });
}

function perSecond(view: View, w: number): number {
  return w / (view.to - view.from);
}

/** Band of the voice: as dark as singing is likely there. */
export function paintVoice(paper: Paper, w: number, detail: SongDetail, view: View): void {
  paper.fillStyle = colour.waveInner;
  for (let px = 0; px < w; px += 2) {
    const at = view.from + (px / w) * (view.to - view.from);
    const likely = detail.voice[Math.floor(at / detail.lufs_hop_s)] ?? 0;
    if (likely < 0.35) continue;
    paper.globalAlpha = Math.min(1, likely);
    paper.fillRect(px, LANE.voice + 6, 2, 6);
  }
  paper.globalAlpha = 1;
}

/** Momentary loudness as a fine line, short-term as a broad one, over the energy as a tint. */
export function paintLoudness(paper: Paper, w: number, detail: SongDetail, view: View): void {
  const bottom = LANE.height - 4;
  const tall = bottom - LANE.loudness - 14;
  const at = (values: readonly number[], px: number) =>
    values[Math.min(values.length - 1, Math.floor((view.from + (px / w) * (view.to - view.from)) / detail.lufs_hop_s))];
  paper.fillStyle = colour.shade;
  for (let px = 0; px < w; px += 2) {
    const energy = (at(detail.energy, px) ?? 0) * tall;
    paper.fillRect(px, bottom - energy, 2, energy);
  }
  for (const [values, width, tone] of [
    [detail.short_term, 2.4, colour.wave],
    [detail.lufs, 1, colour.ink],
  ] as const) {
    paper.strokeStyle = tone;
    paper.lineWidth = width;
    paper.beginPath();
    for (let px = 0; px <= w; px += 2) {
      const y = bottom - (Math.max(0, (at(values, px) ?? -70) + 45) / 45) * tall;
      if (px) paper.lineTo(px, y);
      else paper.moveTo(px, y);
    }
    paper.stroke();
  }
}
