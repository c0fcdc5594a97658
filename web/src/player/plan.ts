/** What is kept of the song and how its ends sound. An empty list keeps all of it. */
export interface Plan {
  kept: readonly (readonly [number, number])[];
  fadeIn: number;
  fadeOut: number;
  shape: string;
}

export const WHOLE: Plan = { kept: [], fadeIn: 0, fadeOut: 0, shape: "smooth" };

/** A beat of the grid as a click. */
export interface Click {
  at: number;
  down: boolean;
}

/** Length of the crossfade that ends at each join; the film has the same. */
export const CROSSFADE = 0.02;

/** A stretch of the song to play: working time, place in the song, length, and crossfades at its ends. */
export interface Piece {
  at: number;
  offset: number;
  seconds: number;
  fadeIn: number;
  fadeOut: number;
}

/** The kept ranges as pieces that overlap by the crossfade before each join. */
export function joined(kept: readonly (readonly [number, number])[]): Piece[] {
  let at = 0;
  return kept.map(([from, to], k) => {
    const before = kept[k - 1];
    const lead = before ? Math.min(CROSSFADE, from, before[1] - before[0], to - from) : 0;
    const after = kept[k + 1];
    const tail = after ? Math.min(CROSSFADE, after[0], to - from, after[1] - after[0]) : 0;
    const piece = { at: at - lead, offset: from - lead, seconds: to - from + lead, fadeIn: lead, fadeOut: tail };
    at += to - from;
    return piece;
  });
}

const STEPS = 65;

/** Gains of a fade from a share of it to its end: "even", "smooth", "slow", or "power" for a crossfade. */
export function curve(shape: string, first: number, up: boolean): Float32Array<ArrayBuffer> {
  return new Float32Array(
    Array.from({ length: STEPS }, (_, i) => {
      const along = first + ((1 - first) * i) / (STEPS - 1);
      const x = up ? along : 1 - along;
      if (shape === "power") return Math.sin((x * Math.PI) / 2);
      if (shape === "smooth") return x * x * (3 - 2 * x);
      return shape === "slow" ? x * x : x;
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
