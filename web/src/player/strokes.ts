import type { HitKind } from "../api/client";

/** A short sound for each kind of hit: hertz at its begin and end, share of noise, and how soon it dies away (1/s). */
const SOUNDS: Record<HitKind, readonly [number, number, number, number]> = {
  kick: [130, 52, 0, 32],
  snare: [330, 190, 0.6, 42],
  hat: [7200, 7200, 0.9, 110],
  cymbal: [4300, 4300, 0.85, 22],
  crash: [3100, 3100, 0.9, 12],
  ride: [5200, 5200, 0.6, 30],
  tom: [210, 120, 0.1, 30],
  low: [260, 260, 0, 90],
  mid: [880, 880, 0, 90],
  high: [2600, 2600, 0, 90],
  chord: [523, 523, 0, 14],
  entry: [600, 1300, 0, 18],
};

const kept = new WeakMap<BaseAudioContext, Map<HitKind, AudioBuffer>>();

/** The sound by which a kind of hit is heard over the song. */
export function strokeSound(context: BaseAudioContext, kind: HitKind): AudioBuffer {
  const sounds = kept.get(context) ?? new Map<HitKind, AudioBuffer>();
  kept.set(context, sounds);
  const buffer = sounds.get(kind) ?? made(context, SOUNDS[kind]);
  sounds.set(kind, buffer);
  return buffer;
}

function made(context: BaseAudioContext, [from, to, noise, dies]: readonly [number, number, number, number]) {
  const count = Math.round((5 / dies) * context.sampleRate);
  const buffer = context.createBuffer(1, count, context.sampleRate);
  const samples = buffer.getChannelData(0);
  let turn = 0;
  for (let i = 0; i < count; i++) {
    const t = i / context.sampleRate;
    turn += (2 * Math.PI * (to + (from - to) * Math.exp(-t * dies * 2))) / context.sampleRate;
    const tone = (1 - noise) * Math.sin(turn) + noise * (2 * Math.random() - 1);
    samples[i] = 0.5 * tone * Math.exp(-t * dies);
  }
  return buffer;
}
