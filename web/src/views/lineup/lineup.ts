import type { MediaView, PassView, SpanView, TakeView } from "../../api/client";

/** Status words with their shapes: never colour alone. */
export const STATUS: Record<string, { word: string; shape: string; tone: string }> = {
  locked: { word: "locked", shape: "●", tone: "good" },
  choose: { word: "choose", shape: "◐", tone: "doubt" },
  unmatched: { word: "no match", shape: "○", tone: "bad" },
  silent: { word: "no sound", shape: "∅", tone: "soft" },
  failed: { word: "unreadable", shape: "✕", tone: "bad" },
  waiting: { word: "waiting", shape: "…", tone: "soft" },
};

/** A confidence in words: no more is said than was measured. */
export function sureness(confidence: number): string {
  return confidence >= 0.99 ? "> 99 %" : `${Math.floor(100 * confidence)} %`;
}

const DOUBT = ["choose", "unmatched", "silent", "failed", "waiting", "locked"];

export type Order = "doubtful" | "camera" | "place";

/** Filter of the takes: empty strings ask for all; `span` is a stretch of song that a pass must touch. */
export interface Sieve {
  status: string;
  camera: string;
  span: [number, number] | null;
}

/** Every song stretch at which a take lies or may lie. */
export function spots(take: TakeView): { start: number; end: number; open: boolean; pass: PassView }[] {
  return take.passes.flatMap((pass) => {
    const length = pass.song_end_s - pass.song_start_s;
    const starts =
      pass.status === "choose" && pass.places.length ? pass.places.map((p) => p.song_start_s) : [pass.song_start_s];
    return starts.map((start) => ({ start, end: start + length, open: pass.status !== "locked", pass }));
  });
}

/** The takes that pass the sieve, in order; equal ones stay as they were. */
export function listed(takes: TakeView[], files: Map<string, MediaView>, order: Order, sieve: Sieve): TakeView[] {
  const camera = (t: TakeView) => files.get(t.media)?.camera ?? "";
  const place = (t: TakeView) => Math.min(Number.POSITIVE_INFINITY, ...t.passes.map((p) => p.song_start_s));
  const { span } = sieve;
  const kept = takes.filter(
    (t) =>
      (!sieve.status || (sieve.status === "open" ? t.status !== "locked" : t.status === sieve.status)) &&
      (!sieve.camera || camera(t) === sieve.camera) &&
      (!span || spots(t).some((s) => s.start < span[1] && s.end > span[0])),
  );
  if (order === "doubtful") kept.sort((a, b) => DOUBT.indexOf(a.status) - DOUBT.indexOf(b.status));
  if (order === "camera") kept.sort((a, b) => camera(a).localeCompare(camera(b)));
  if (order === "place") kept.sort((a, b) => place(a) - place(b));
  return kept;
}

/** The nearest of some times within reach, else the time itself. */
export function snapped(at: number, times: readonly number[], reach: number): number {
  let best = at;
  let gap = reach;
  for (const t of times) {
    if (Math.abs(t - at) < gap) {
      gap = Math.abs(t - at);
      best = t;
    }
  }
  return best;
}

/**
 * The sharpest rise of sound near a time: where the level of a few milliseconds grows most over the few before.
 * `samples` begin at `from` and hold `seconds`.
 */
export function rise(samples: Float32Array, from: number, seconds: number, at: number, reach: number): number {
  const rate = samples.length / seconds;
  const hop = Math.max(1, Math.round(rate * 0.002));
  const level = (i: number) => {
    let sum = 0;
    for (let k = i * hop; k < (i + 2) * hop; k++) sum += (samples[k] ?? 0) ** 2;
    return Math.sqrt(sum / (2 * hop));
  };
  const middle = Math.round(((at - from) * rate) / hop);
  const far = Math.round((reach * rate) / hop);
  let best = at;
  let steepest = 0;
  for (let i = Math.max(3, middle - far); i <= middle + far; i++) {
    const growth = level(i) - 1.5 * level(i - 3);
    if (growth > steepest) {
      steepest = growth;
      best = from + (i * hop) / rate;
    }
  }
  return steepest > 0.004 ? best : at;
}

/** Drift of a pass's clock in words: as parts in a million and as frames over the pass. */
export function clockWords(pass: PassView, rate: number): string {
  const seconds = pass.song_end_s - pass.song_start_s;
  const off = pass.rate - 1;
  if (Math.abs(off) > 0.005)
    return `song played at ${pass.rate.toFixed(4)} times its speed${pass.pitch_kept ? ", pitch kept" : ""}`;
  const ppm = off * 1e6;
  if (Math.abs(ppm) < 0.5) return "clocks agree";
  const frames = off * seconds * rate;
  return `camera clock ${ppm > 0 ? "slow" : "fast"} by ${Math.abs(ppm).toFixed(Math.abs(ppm) < 10 ? 1 : 0)} ppm: ${Math.abs(frames).toFixed(1)} f over the pass, followed`;
}

/** Passes of a take on the whole song, all or only those of a status. */
export function takeSpans(take: TakeView, status?: string): SpanView[] {
  return take.passes
    .flatMap((p) => (p.span && (!status || p.status === status) ? [p.span] : []))
    .sort((a, b) => a.start - b.start);
}
