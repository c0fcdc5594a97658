import type { EditView, HitKind } from "../api/client";
import { FADES } from "../api/facts";
import { type Kept, toWorking } from "../parts/format";
import { shaped } from "./chain";

/** A stretch of the song to play: working time, place in the song, length, and crossfades at its ends. */
export interface Piece {
  at: number;
  offset: number;
  seconds: number;
  fadeIn: number;
  fadeOut: number;
}

/** Sound to play: the programme's pieces, or without any all of the song; the kept pieces, and the fades at its ends. */
export interface Plan {
  pieces: readonly Piece[];
  kept: readonly (readonly [number, number])[];
  fadeIn: number;
  fadeOut: number;
  shape: string;
  /** Seconds of film before the song and after it, in which it is silent. */
  before: number;
  after: number;
}

export const WHOLE: Plan = { pieces: [], kept: [], fadeIn: 0, fadeOut: 0, shape: "smooth", before: 0, after: 0 };

/**
 * The programme's sound as the clock plays it.
 *
 * @param kept What is kept of the song; empty where nothing is left out.
 * @param around Seconds of film before the song and after it.
 */
export function planOf(
  { pieces, fade_in_s, fade_out_s, shape }: EditView["programme"]["sound"],
  kept: readonly (readonly [number, number])[],
  [before, after]: readonly [number, number] = [0, 0],
): Plan {
  return {
    pieces: kept.length
      ? pieces.map((p) => ({
          at: p.at_s,
          offset: p.media_s,
          seconds: p.seconds,
          fadeIn: p.fade_in_s,
          fadeOut: p.fade_out_s,
        }))
      : [],
    kept,
    fadeIn: fade_in_s,
    fadeOut: fade_out_s,
    shape,
    before,
    after,
  };
}

/** A beat of the grid as a click, or a hit by the sound of its kind. */
export interface Click {
  at: number;
  down: boolean;
  kind?: HitKind;
}

/** Clicks in working time: those of what is kept of the song; all of them where nothing is left out. */
export function keptClicks(clicks: readonly Click[], kept: Kept | null): Click[] {
  if (!kept) return [...clicks];
  return clicks
    .filter(({ at }) => kept.some(([a = 0, b = 0]) => at >= a - 1e-3 && at < b))
    .map(({ at, down }) => ({ at: toWorking(kept, at), down }));
}

const STEPS = 65;

/** Gains of a fade from a share of it to its end: "even", "smooth", "slow", or "power" for a crossfade. */
export function curve(shape: string, first: number, up: boolean): Float32Array<ArrayBuffer> {
  return new Float32Array(
    Array.from({ length: STEPS }, (_, i) => {
      const along = first + ((1 - first) * i) / (STEPS - 1);
      const x = up ? along : 1 - along;
      if (shape === "power") return Math.sin((x * Math.PI) / 2);
      return shaped(FADES[shape] ?? "straight", x);
    }),
  );
}

const clicks = new WeakMap<BaseAudioContext, AudioBuffer[]>();

/** A short click, higher on the first beat of a bar. */
export function clickSound(context: BaseAudioContext, down: boolean): AudioBuffer {
  let pair = clicks.get(context);
  if (!pair) {
    pair = [1050, 1580].map((hertz) => {
      const buffer = context.createBuffer(1, Math.round(0.035 * context.sampleRate), context.sampleRate);
      const samples = buffer.getChannelData(0);
      for (let i = 0; i < samples.length; i++) {
        const t = i / context.sampleRate;
        samples[i] = 0.6 * Math.sin(2 * Math.PI * hertz * t) * Math.exp(-t * 120);
      }
      return buffer;
    });
    clicks.set(context, pair);
  }
  return pair[down ? 1 : 0] as AudioBuffer;
}
