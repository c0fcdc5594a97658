import { clock, useClock } from "./clock";

/** Latency of this person's taps on this browser, in seconds; taps are moved back by it. */
const KEY = "zembi.tap-latency-s";

export function tapLatency(): number {
  const kept = Number(localStorage.getItem(KEY));
  return Number.isFinite(kept) ? kept : 0;
}

/** The position that a person meant who pressed a key just now: while the song plays, that which was heard. */
export function tappedAt(): number {
  return Math.max(0, clock.position() - (useClock.getState().playing ? tapLatency() : 0));
}

export function keepTapLatency(seconds: number): void {
  localStorage.setItem(KEY, String(seconds));
}

/**
 * The median of how late taps were after the clicks nearest to them; null where too few taps are near one.
 */
export function latencyOf(clicks: readonly number[], taps: readonly number[]): number | null {
  const beat = (clicks[1] ?? 1) - (clicks[0] ?? 0);
  const late = taps
    .map((tap) => tap - clicks.reduce((best, c) => (Math.abs(c - tap) < Math.abs(best - tap) ? c : best), 1e9))
    .filter((by) => Math.abs(by) < beat / 2)
    .sort((a, b) => a - b);
  if (late.length < Math.ceil(clicks.length / 2)) return null;
  const middle = late.length >> 1;
  return late.length % 2 ? (late[middle] as number) : ((late[middle - 1] as number) + (late[middle] as number)) / 2;
}
